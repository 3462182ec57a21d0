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
  const stop = useMutation({
    mutationFn: () =>
      body(client.POST("/api/outputs/{output_id}/stop", { params: { path: { output_id: output.id } } })),
  });
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
        {active(output) && (
          <button type="button" className="btn btn-xs" onClick={() => stop.mutate()}>
            Stop
          </button>
        )}
      </div>
      {output.state === "running" && (
        <div className="mt-1 flex items-center gap-2">
          <progress
            className="progress progress-primary flex-1"
            value={output.progress?.done ?? 0}
            max={output.progress?.count || 1}
            aria-label={`Making ${output.file}`}
          />
          {output.progress?.seconds_left != null && (
            <span className="figures text-note">{span(output.progress.seconds_left)} left</span>
          )}
        </div>
      )}
      {output.state === "queued" && <span className="quiet">Queued</span>}
      {(output.message || output.trouble) && <ErrorAlert error={output.message || output.trouble} />}
      {children}
    </li>
  );
}
