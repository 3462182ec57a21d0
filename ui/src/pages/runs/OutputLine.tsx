import { useMutation } from "@tanstack/react-query";
import { CirclePlay, Download } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { body, client, type Output } from "../../api/client";
import { CopyButton } from "../../parts/CopyButton";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { size, span } from "../../parts/format";
import { active } from "./words";

/** A file that was made of a take, or is being made; below it what belongs to it. */
export function OutputLine({ output, children }: { output: Output; children?: ReactNode }) {
  return (
    <li className="border-b rule py-1.5 text-small last:border-b-0">
      <div className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate" title={output.path}>
          {output.file}
        </span>
        {output.state === "done" && <span className="figures">{size(output.receipt?.bytes ?? 0)}</span>}
        {output.folder && output.state !== "failed" && (
          <CopyButton text={output.path} name={`the path of ${output.file}`} />
        )}
        {output.state === "done" && !output.folder && (
          <>
            <a
              className="btn btn-ghost btn-xs btn-square"
              href={`/api/outputs/${output.id}/file?download=1`}
              aria-label={`Download ${output.file}`}
              title="Download"
            >
              <Download size={15} aria-hidden />
            </a>
            {!/\.(zip|mkv|mov|vtt)$/.test(output.file) && (
              <Link to={`/files/${output.id}`} className="btn btn-primary btn-xs">
                <CirclePlay size={14} aria-hidden /> {/\.(png|jpg)$/.test(output.file) ? "Show" : "Play"}
              </Link>
            )}
          </>
        )}
      </div>
      {active(output) && <Making output={output} />}
      {output.state === "stopped" && <span className="quiet">{output.message || "Stopped"}</span>}
      {output.state !== "stopped" && (output.message || output.trouble) && (
        <ErrorAlert error={output.message || output.trouble} />
      )}
      {children}
    </li>
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
