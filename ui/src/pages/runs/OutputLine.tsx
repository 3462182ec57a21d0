import { useMutation } from "@tanstack/react-query";
import { CircleCheck, CirclePlay, Download, Ellipsis, FolderOpen, OctagonX } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { body, client, type Output } from "../../api/client";
import { vocabulary } from "../../api/vocabulary";
import { CopyButton } from "../../parts/CopyButton";
import { Dropdown } from "../../parts/Dropdown";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { size, span } from "../../parts/format";
import { DeleteFile } from "./DeleteFile";
import { active } from "./words";

interface Props {
  output: Output;
  /** Without its path. */
  brief?: boolean;
  children?: ReactNode;
}

/** A file that was made of a take, or is being made; below it what belongs to it. */
export function OutputLine({ output, brief, children }: Props) {
  const done = output.state === "done";
  return (
    <li className="border-b rule py-1.5 text-small last:border-b-0">
      <div className="flex flex-wrap items-center gap-x-1 gap-y-0.5">
        <span className="min-w-40 flex-1 truncate" title={output.path}>
          {output.file}
        </span>
        {output.receipt && <Proven output={output} />}
        {done && <span className="figures mr-1">{size(output.receipt?.bytes ?? 0)}</span>}
        {done && !output.folder && (
          <>
            {!/\.(zip|mkv|mov|vtt)$/.test(output.file) && (
              <Link to={`/files/${output.id}`} className="btn btn-primary btn-xs">
                <CirclePlay size={14} aria-hidden /> {/\.(png|jpg)$/.test(output.file) ? "Show" : "Play"}
              </Link>
            )}
            <a
              className="btn btn-ghost btn-xs btn-square"
              href={`/api/outputs/${output.id}/file?download=1`}
              aria-label={`Download ${output.file}`}
              title="Download"
            >
              <Download size={15} aria-hidden />
            </a>
          </>
        )}
        {!active(output) && (
          <Dropdown
            label={`More for ${output.file}`}
            title="Copy path, show in folder, delete"
            floating
            className="btn btn-ghost btn-xs btn-square"
            summary={<Ellipsis size={15} aria-hidden />}
          >
            {() => (
              <ul className="flex w-52 flex-col items-stretch rounded-box border rule bg-base-100 p-1 shadow-lg">
                {done && <PlaceButtons output={output} />}
                <li>
                  <DeleteFile output={output} />
                </li>
              </ul>
            )}
          </Dropdown>
        )}
      </div>
      {done && !brief && <p className="quiet truncate text-note">{output.path}</p>}
      {active(output) && <Making output={output} />}
      {output.state === "stopped" && <span className="quiet">{output.message || "Stopped"}</span>}
      {output.state !== "stopped" && (output.message || output.trouble) && (
        <ErrorAlert error={output.message || output.trouble} />
      )}
      {children}
    </li>
  );
}

/** Whether a file matches its plan. */
function Proven({ output }: { output: Output }) {
  const holds = output.receipt?.holds && !output.trouble;
  const Icon = holds ? CircleCheck : OctagonX;
  const label = holds ? "Matches the plan" : "Does not match the plan";
  return (
    <span role="img" aria-label={label} title={label} className={holds ? "text-primary" : "text-error"}>
      <Icon size={15} aria-hidden />
    </span>
  );
}

/** Where a file is: its path to copy, and its folder. */
function PlaceButtons({ output }: { output: Output }) {
  const show = useMutation({
    mutationFn: () =>
      body(client.POST("/api/outputs/{output_id}/show", { params: { path: { output_id: output.id } } })),
  });
  return (
    <>
      <li>
        <CopyButton text={output.path} name={`the path of ${output.file}`} label="Copy path" wide />
      </li>
      {vocabulary().file_manager && (
        <li>
          <button
            type="button"
            className="btn btn-ghost btn-xs w-full justify-start font-normal"
            disabled={show.isPending}
            onClick={() => show.mutate()}
          >
            <FolderOpen size={14} aria-hidden /> Show in folder
          </button>
        </li>
      )}
      {show.error && <ErrorAlert error={show.error} onClose={() => show.reset()} />}
    </>
  );
}

/** The progress of a file, with its time left and the button that stops it. */
export function Making({ output }: { output: Output }) {
  const stop = useMutation({
    mutationFn: () =>
      body(client.POST("/api/outputs/{output_id}/stop", { params: { path: { output_id: output.id } } })),
  });
  const left = output.progress?.seconds_left;
  return (
    <div className="mt-1 flex items-center gap-2" data-testid="making">
      {output.state === "queued" ? (
        <span className="quiet flex-1">Queued</span>
      ) : (
        <progress
          className="progress progress-primary min-w-16 flex-1"
          value={output.progress?.done ?? 0}
          max={output.progress?.count || 1}
          aria-label={`Making ${output.file}`}
        />
      )}
      {left != null && <span className="figures whitespace-nowrap text-note">{span(left)} left</span>}
      <button type="button" className="btn btn-xs" disabled={stop.isPending} onClick={() => stop.mutate()}>
        Stop
      </button>
    </div>
  );
}
