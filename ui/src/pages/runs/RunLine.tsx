import { CircleCheck, CircleDashed, CirclePause, CirclePlay, OctagonX } from "lucide-react";
import { Link } from "react-router";
import type { Run } from "../../api/client";
import { size, when } from "../../parts/format";
import { TakePicture } from "../../parts/takes/TakePicture";
import { RemoveRun } from "./RemoveRun";
import { doneOf, stateWords } from "./words";

const ICONS: Record<string, { Icon: typeof CircleCheck; tone: string }> = {
  done: { Icon: CircleCheck, tone: "text-primary" },
  running: { Icon: CirclePlay, tone: "text-primary" },
  queued: { Icon: CircleDashed, tone: "" },
  stopped: { Icon: CirclePause, tone: "text-warning" },
  failed: { Icon: OctagonX, tone: "text-error" },
};

/** A run in one line: state by shape as well as colour. */
export function RunLine({ run, brief }: { run: Run; brief?: boolean }) {
  const { Icon, tone } = ICONS[run.state] ?? ICONS.queued;
  const state = `Run ${run.id}, ${run.draft ? "draft, " : ""}${stateWords(run)}`;
  const file = run.outputs.find((output) => output.state === "done");
  return (
    <li className="flex items-center gap-3 border-b rule py-1.5 last:border-b-0">
      <Link to={`/runs/${run.id}`} className="group flex min-w-0 flex-1 items-center gap-2.5">
        {!brief && <TakePicture run={run} />}
        <Icon size={17} className={`shrink-0 ${tone}`} aria-hidden />
        {!brief && (
          <span className="min-w-0 flex-1">
            <span className="block truncate font-semibold group-hover:underline">{run.title}</span>
            <span className="quiet block truncate text-note">
              <span className="sm:hidden">{state} · </span>
              {run.summary}
            </span>
          </span>
        )}
        <span
          className={`min-w-0 truncate text-small ${brief ? "flex-1 group-hover:underline" : "w-48 max-lg:w-36 max-sm:hidden"}`}
        >
          {state}
        </span>
        <span className="figures w-28 text-right text-small max-sm:hidden">
          {doneOf(run).toLocaleString("en")} / {run.count.toLocaleString("en")}
        </span>
        {!brief && (
          <span className="figures w-20 text-right text-small max-lg:hidden" title="Frames on disk">
            {size(run.bytes)}
          </span>
        )}
        {!brief && (
          <span className="quiet w-28 text-right text-small max-lg:hidden">{when(run.created)}</span>
        )}
      </Link>
      {!brief && (
        <span className="w-20 max-sm:w-auto">
          {file && (
            <Link to={`/files/${file.id}`} className="btn btn-xs">
              <CirclePlay size={14} aria-hidden /> Play
            </Link>
          )}
        </span>
      )}
      {!brief && <RemoveRun run={run} />}
    </li>
  );
}
