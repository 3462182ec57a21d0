import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { runsOfShotQuery, shotQuery, useEdits } from "../../api/queries";
import { Complaint } from "../../parts/Complaint";
import { Brief, type Topic } from "./Brief";
import { Ends } from "./Ends";
import type { Edit } from "./edit";
import { Ready } from "./Ready";
import { Reckoning } from "./Reckoning";
import { Sheet } from "./Sheet";
import { Strip } from "./Strip";
import { Title } from "./Title";
import { Viewfinder } from "./Viewfinder";

// The editor is as large as all else together, so it comes when it is wanted.
const CodePane = lazy(async () => ({ default: (await import("./CodePane")).CodePane }));

/** One shot: its brief, its figures, its picture and its frames. */
export function Bench() {
  const { shotId = "" } = useParams();
  const { data: shot, error } = useQuery(shotQuery(shotId));
  const { data: runs } = useQuery(runsOfShotQuery(shotId));
  const edits = useEdits(shotId);
  const [topic, setTopic] = useState<Topic | null>(null);
  const [at, setAt] = useState(0);
  const frames = shot?.reckoning.frames ?? 1;
  const frame = Math.min(at, frames - 1);

  useFrameKeys(frames, setAt);
  useUndoKeys(edits.undo.mutate, edits.redo.mutate);
  useEffect(() => {
    document.title = shot ? `${shot.document.title} · Vexel` : "Vexel";
  }, [shot]);

  if (error && !shot) {
    return (
      <div className="mx-auto max-w-2xl p-8">
        <Complaint error={error} />
        <Link to="/" className="btn btn-sm mt-3">
          Back to the shots
        </Link>
      </div>
    );
  }
  if (!shot) return <div className="quiet p-8">Opening the shot…</div>;

  const edit: Edit = (patch, what) => edits.edit.mutate({ patch, what });
  const complaint = edits.edit.error ?? edits.term.error ?? edits.undo.error ?? edits.redo.error;
  return (
    <div className="flex h-full min-h-[640px] flex-col">
      <div className="border-b rule bg-base-100 px-4 pb-2 pt-2.5">
        <Title
          shot={shot}
          edit={edit}
          onUndo={() => edits.undo.mutate()}
          onRedo={() => edits.redo.mutate()}
        />
        <Brief shot={shot} topic={topic} onTopic={setTopic} />
        <Reckoning shot={shot} edit={edit} onTerm={edits.term.mutate} />
        {complaint && (
          <div className="mt-2">
            <Complaint
              error={complaint}
              onClose={() => [edits.edit, edits.term, edits.undo, edits.redo].map((e) => e.reset())}
            />
          </div>
        )}
      </div>
      <div className="flex min-h-0 flex-1">
        <Ends shot={shot} frame={frame} onFrame={setAt} />
        <Viewfinder shot={shot} frame={frame} edit={edit} />
        <aside
          className={`flex shrink-0 flex-col border-l rule bg-base-100 ${topic === "code" ? "w-[520px]" : "w-[308px]"}`}
          aria-label="Details"
        >
          {topic === "code" ? (
            <Suspense fallback={<p className="quiet p-3">Opening the editor…</p>}>
              <CodePane shot={shot} edit={edit} onClose={() => setTopic(null)} />
            </Suspense>
          ) : topic ? (
            <Sheet
              topic={topic}
              shot={shot}
              edit={edit}
              frame={frame}
              onTopic={setTopic}
              onClose={() => setTopic(null)}
            />
          ) : (
            <Ready shot={shot} edit={edit} runs={runs?.runs ?? []} />
          )}
        </aside>
      </div>
      <Strip shot={shot} frame={frame} onFrame={setAt} run={runs?.runs[0]} />
    </div>
  );
}

/** Arrow keys step through the frames, unless a field or the viewfinder has them. */
function useFrameKeys(frames: number, setAt: (step: (at: number) => number) => void) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const taken = target.closest("input, textarea, select, dialog, [data-own-keys]");
      const by = STEPS[event.key];
      if (taken || by === undefined || event.ctrlKey || event.metaKey) return;
      event.preventDefault();
      setAt((at) =>
        Math.min(Math.max(Math.min(at, frames - 1) + by * (event.shiftKey ? 10 : 1), 0), frames - 1),
      );
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [frames, setAt]);
}

/** How many frames a key goes; Home and End go as far as there is. */
const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowRight: 1,
  Home: Number.NEGATIVE_INFINITY,
  End: Number.POSITIVE_INFINITY,
};

function useUndoKeys(undo: () => void, redo: () => void) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || (event.target as HTMLElement).closest("input, textarea"))
        return;
      const key = event.key.toLowerCase();
      if (key !== "z" && key !== "y") return;
      event.preventDefault();
      if (key === "y" || event.shiftKey) redo();
      else undo();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [undo, redo]);
}
