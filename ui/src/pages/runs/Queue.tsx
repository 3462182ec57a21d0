import {
  type Announcements,
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  type UniqueIdentifier,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { GripVertical, Pause, Play, Square } from "lucide-react";
import { Link } from "react-router";
import { body, client, type Run } from "../../api/client";
import { queueQuery } from "../../api/runQueries";
import { count, span } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { doneOf } from "./words";

/** Queued runs that are listed one by one. */
const MOST_SHOWN = 50;

/** What is captured now, and what waits: dragged into another order, paused, and stopped. */
export function Queue({ runs }: { runs: Run[] }) {
  const queries = useQueryClient();
  const { data: queue } = useQuery(queueQuery);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const order = useMutation({
    mutationFn: (ids: number[]) => body(client.POST("/api/queue", { body: { runs: ids } })),
    onMutate: (ids) => {
      if (queue) queries.setQueryData(queueQuery.queryKey, { ...queue, queued: ids });
    },
    onSuccess: (next) => queries.setQueryData(queueQuery.queryKey, next),
  });
  const act = useMutation({
    mutationFn: ({ id, what }: { id: number; what: "pause" | "continue" | "stop" }) =>
      body(client.POST(`/api/runs/{run_id}/${what}`, { params: { path: { run_id: id } } })),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["queue"] }),
  });
  const stopAll = useMutation({
    mutationFn: () => body(client.POST("/api/queue/stop")),
    onSuccess: (next) => queries.setQueryData(queueQuery.queryKey, next),
  });
  const running = runs.find((run) => run.id === queue?.running);
  if (!queue || (!running && queue.queued.length === 0)) return null;
  const byId = new Map(runs.map((run) => [run.id, run]));
  const ids = queue.queued.slice(0, MOST_SHOWN).filter((id) => byId.has(id));
  const named = (id: UniqueIdentifier) => byId.get(Number(id))?.title ?? "the run";
  const place = (id: UniqueIdentifier | undefined) => `place ${ids.indexOf(Number(id)) + 1} of ${ids.length}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => `Picked up ${named(active.id)}, ${place(active.id)}.`,
    onDragOver: ({ active, over }) => (over ? `${named(active.id)} is over ${place(over.id)}.` : undefined),
    onDragEnd: ({ active, over }) => `${named(active.id)} is now ${place(over?.id ?? active.id)}.`,
    onDragCancel: ({ active }) => `${named(active.id)} stays ${place(active.id)}.`,
  };
  const total = (running ? 1 : 0) + queue.queued.length;
  return (
    <section
      aria-label="Queue"
      className="mb-4 rounded-box border rule bg-base-100 px-4 py-2"
      data-testid="queue"
    >
      <div className="flex items-baseline gap-3 py-1">
        <h2 className="font-semibold">Queue</h2>
        <span className="quiet flex-1 text-small">
          {count(total, "run")}
          {queue.seconds_left != null && `, about ${span(queue.seconds_left)} left in all`}
        </span>
        {total > 1 && (
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            disabled={stopAll.isPending}
            onClick={() => stopAll.mutate()}
          >
            <Square size={14} aria-hidden /> Stop all
          </button>
        )}
      </div>
      {running && (
        <div className="flex items-center gap-3 border-t rule py-2">
          <div className="min-w-0 flex-1">
            <Link to={`/runs/${running.id}`} className="block truncate font-semibold hover:underline">
              {running.title}
            </Link>
            <progress
              className="progress progress-primary h-2 w-full"
              value={doneOf(running)}
              max={running.count}
              aria-label={`Frames of run ${running.id}`}
            />
            {running.progress?.paused && (
              <p className="text-note text-warning" role="status">
                {running.progress.paused}
              </p>
            )}
          </div>
          <span className="figures whitespace-nowrap text-small">
            {doneOf(running).toLocaleString("en")} / {running.count.toLocaleString("en")}
            {running.progress?.seconds_left != null && ` · ${span(running.progress.seconds_left)}`}
          </span>
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => act.mutate({ id: running.id, what: running.paused ? "continue" : "pause" })}
          >
            {running.paused ? <Play size={15} aria-hidden /> : <Pause size={15} aria-hidden />}
            {running.paused ? "Continue" : "Pause"}
          </button>
          <button
            type="button"
            className="btn btn-sm"
            onClick={() => act.mutate({ id: running.id, what: "stop" })}
          >
            <Square size={15} aria-hidden /> Stop
          </button>
        </div>
      )}
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        accessibility={{ announcements }}
        onDragEnd={({ active, over }) => {
          if (over && active.id !== over.id)
            order.mutate(arrayMove(ids, ids.indexOf(Number(active.id)), ids.indexOf(Number(over.id))));
        }}
      >
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <ol aria-label="Queued runs" className="max-h-80 overflow-auto">
            {ids.map((id, n) => (
              <Waiting
                key={id}
                run={byId.get(id) as Run}
                place={n + 1 + (running ? 1 : 0)}
                onStop={() => act.mutate({ id, what: "stop" })}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      {queue.queued.length > ids.length && (
        <p className="quiet border-t rule py-1.5 text-small">
          and {(queue.queued.length - ids.length).toLocaleString("en")} more
        </p>
      )}
      <Notice
        error={order.error ?? act.error ?? stopAll.error}
        onClose={() => {
          act.reset();
          stopAll.reset();
        }}
      />
    </section>
  );
}

function Waiting({ run, place, onStop }: { run: Run; place: number; onStop: () => void }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: run.id,
  });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`flex items-center gap-2 border-t rule bg-base-100 py-1.5 ${isDragging ? "relative z-10 shadow" : ""}`}
      data-run={run.id}
    >
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square cursor-grab"
        aria-label={`Move ${run.title}`}
        {...attributes}
        {...listeners}
      >
        <GripVertical size={15} aria-hidden />
      </button>
      <span className="figures quiet w-6 text-right text-small">{place}</span>
      <Link to={`/runs/${run.id}`} className="min-w-0 flex-1 truncate hover:underline">
        {run.title}
      </Link>
      <span className="figures whitespace-nowrap text-small">{run.count.toLocaleString("en")}</span>
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        onClick={onStop}
        aria-label={`Stop ${run.title}`}
      >
        <Square size={14} aria-hidden />
      </button>
    </li>
  );
}
