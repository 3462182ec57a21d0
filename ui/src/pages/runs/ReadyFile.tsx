import { CircleCheck, CirclePlay, Download, OctagonX } from "lucide-react";
import { Link } from "react-router";
import type { Run } from "../../api/client";
import { count, size, span } from "../../parts/format";
import { active } from "./words";

/** What a run was to end in: its file, or how far it is on the way there. */
export function ReadyFile({ run }: { run: Run }) {
  if (!run.makes) return null;
  const file = run.outputs.find((output) => output.state === "done");
  const making = run.outputs.find(active);
  const failed = run.outputs.find((output) => output.state === "failed");
  if (file) {
    const others = run.outputs.filter((output) => output.state === "done").length - 1;
    const holds = (file.receipt?.holds ?? false) && !file.trouble;
    const Icon = holds ? CircleCheck : OctagonX;
    return (
      <section
        aria-label="The file"
        data-testid="ready-file"
        className="mb-3 flex flex-wrap items-center gap-3 rounded-box border-2 border-primary bg-base-100 px-4 py-2.5"
      >
        <Icon size={20} className={holds ? "text-primary" : "text-error"} aria-hidden />
        <span className="min-w-0 flex-1 truncate">
          <b>{file.file}</b>
          {others > 0 && ` and ${count(others, "more file")} below`}{" "}
          <span className="figures">{size(file.receipt?.bytes ?? 0)}</span>{" "}
          <span className="quiet">
            {holds ? "It matches the plan." : file.trouble || "It does not match the plan: see the receipt."}
          </span>
        </span>
        {file.folder ? (
          <span className="figures truncate text-small">{file.path}</span>
        ) : (
          <>
            <Link to={`/files/${file.id}`} className="btn btn-sm">
              <CirclePlay size={15} aria-hidden /> Play
            </Link>
            <a className="btn btn-primary btn-sm" href={`/api/outputs/${file.id}/file?download=1`}>
              <Download size={15} aria-hidden /> Download
            </a>
          </>
        )}
      </section>
    );
  }
  const seconds = making?.progress?.seconds_left;
  const left = seconds == null ? "" : `, ${span(seconds)} left`;
  const words = making
    ? `Making the ${run.makes}${left}…`
    : active(run)
      ? `The ${run.makes} is made next.`
      : failed
        ? `The ${run.makes} could not be made: ${failed.message}`
        : "";
  return words ? (
    <p className="quiet mb-2 text-small" role="status" data-testid="then">
      {words[0].toUpperCase() + words.slice(1)}
    </p>
  ) : null;
}
