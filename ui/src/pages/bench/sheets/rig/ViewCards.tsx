import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
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
import { GripVertical } from "lucide-react";
import { targetName, vocabulary } from "../../../../api/vocabulary";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { short } from "../../../../parts/format";
import { freeName } from "../../../../parts/freeName";
import { useDetails } from "../../../../parts/hooks/useDetails";
import { RemoveButton } from "../../../../parts/RemoveButton";
import { useBench } from "../../context";
import type { Edit } from "../../edit";
import type { StopsRig, View } from "../../rigs";

interface Props {
  views: View[];
  /** The walk through them, if the camera takes it. */
  rig: StopsRig | null;
  edit: Edit;
  /** Shown frames at which they are reached. */
  stops: number[];
  onFrame: (frame: number) => void;
}

/** Saved views in their order, which is that of the stops; dragged by their handles. */
export function ViewCards({ views, rig, edit, stops, onFrame }: Props) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const save = (next: View[], what: string) => edit({ camera: { views: next } }, what);
  const { frame } = useBench();
  const current = Math.max(
    stops.findLastIndex((stop) => stop <= frame),
    0,
  );
  const ids = views.map((_, n) => `view-${n}`);
  // Announced by the views' names, and not by their ids.
  const named = (id: UniqueIdentifier) => views[ids.indexOf(String(id))]?.name || "the view";
  const place = (id: UniqueIdentifier | undefined) => `stop ${ids.indexOf(String(id)) + 1} of ${ids.length}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => `Picked up ${named(active.id)}, ${place(active.id)}.`,
    onDragOver: ({ active, over }) => (over ? `${named(active.id)} is over ${place(over.id)}.` : undefined),
    onDragEnd: ({ active, over }) => `${named(active.id)} is now ${place(over?.id ?? active.id)}.`,
    onDragCancel: ({ active }) => `${named(active.id)} stays ${place(active.id)}.`,
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    save(
      arrayMove(views, ids.indexOf(String(active.id)), ids.indexOf(String(over.id))),
      "the order of the views",
    );
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={onDragEnd}
      accessibility={{ announcements }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <ol className="flex flex-col gap-1.5" aria-label="Saved views">
          {views.map((view, n) => (
            <ViewCard
              key={ids[n]}
              id={ids[n]}
              number={n + 1}
              view={view}
              now={n === current}
              others={views.filter((_, k) => k !== n).map((other) => other.name ?? "")}
              rig={rig}
              last={n === views.length - 1 && !rig?.closed}
              onGo={rig && stops[n] !== undefined ? () => onFrame(stops[n]) : undefined}
              onChange={(values, what) =>
                save(
                  views.map((old, k) => (k === n ? { ...old, ...values } : old)),
                  what,
                )
              }
              onRemove={
                views.length > 1 || !rig
                  ? () =>
                      save(
                        views.filter((_, k) => k !== n),
                        "a view",
                      )
                  : undefined
              }
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

interface CardProps {
  id: string;
  number: number;
  view: View;
  /** Whether the shown frame belongs to it: without details, the others are short. */
  now: boolean;
  /** Names of the other views. */
  others: string[];
  rig: StopsRig | null;
  last: boolean;
  onGo?: () => void;
  onChange: (values: Partial<View>, what: string) => void;
  onRemove?: () => void;
}

function ViewCard({ id, number, view, now, others, rig, last, onGo, onChange, onRemove }: CardProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id });
  const name = view.name || `View ${number}`;
  const details = useDetails();
  const drawn = vocabulary().passes.filter((pass) => pass.in_view);
  const shown = Object.entries(view.shows);
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className="rounded border rule bg-base-100 p-1.5"
      data-testid="view-card"
    >
      <div className="flex items-center gap-1">
        <button
          type="button"
          className="flex size-6 shrink-0 cursor-grab touch-none items-center justify-center"
          aria-label={`Move ${name}: space, then arrow keys`}
          {...attributes}
          {...listeners}
        >
          <GripVertical size={15} aria-hidden />
        </button>
        {now && rig && !details ? (
          <span className="flex size-6 shrink-0 items-center justify-center rounded-sm bg-primary text-mark text-primary-content">
            {number}
          </span>
        ) : (
          <button
            type="button"
            className="flex size-6 shrink-0 items-center justify-center rounded-sm bg-primary text-mark text-primary-content disabled:opacity-60"
            title={onGo ? "Go to its frame" : undefined}
            aria-label={`${number}: go to ${name}`}
            disabled={!onGo}
            onClick={onGo}
          >
            {number}
          </button>
        )}
        <TextEntry
          label={`Name of view ${number}`}
          value={name}
          className="entry min-w-0 flex-1 font-sans"
          onCommit={(to) => onChange({ name: freeName(to, others) }, "the name of a view")}
        />
        {onRemove && (details || now || !rig) && <RemoveButton label={`Remove ${name}`} onClick={onRemove} />}
      </div>
      {rig && (details || now) && (
        <div className="mt-1 flex items-center gap-1 pl-6 text-note">
          <span className="quiet">dwell</span>
          <NumberEntry
            label={`Dwell at ${name}, seconds`}
            width="3.1rem"
            min={0}
            step={0.5}
            value={view.dwell_seconds ?? rig.dwell_seconds}
            onCommit={(dwell_seconds) => onChange({ dwell_seconds }, "the rest at a view")}
          />
          <span className="quiet">s</span>
          {!last && (
            <>
              {!details && !view.way && <span className="quiet ml-2">travel</span>}
              {(details || view.way) && (
                <select
                  className="entry ml-1 w-[4.9rem] text-note"
                  aria-label={`Transition after ${name}`}
                  value={view.way ?? rig.way}
                  onChange={(event) =>
                    onChange({ way: event.target.value as View["way"] }, "the way from a view")
                  }
                >
                  {["around", "straight", "cut"].map((way) => (
                    <option key={way}>{way}</option>
                  ))}
                </select>
              )}
              {(view.way ?? rig.way) !== "cut" && (
                <>
                  <NumberEntry
                    label={`Travel from ${name}, seconds`}
                    width="3.1rem"
                    min={0}
                    step={0.5}
                    value={view.travel_seconds ?? rig.travel_seconds}
                    onCommit={(travel_seconds) => onChange({ travel_seconds }, "the travel from a view")}
                  />
                  <span className="quiet">s</span>
                </>
              )}
            </>
          )}
        </div>
      )}
      {rig && (details || view.drawn) && (
        <div className="mt-1 flex items-center gap-1 pl-6 text-note">
          <span className="quiet">pass</span>
          <select
            className="entry w-[8.4rem] font-sans text-note"
            aria-label={`Pass of ${name}`}
            value={view.drawn ?? ""}
            onChange={(event) =>
              onChange({ drawn: (event.target.value || null) as View["drawn"] }, "how a view is drawn")
            }
          >
            <option value="">same as the shot</option>
            {drawn.map((pass) => (
              <option key={pass.name} value={pass.name}>
                {pass.label}
              </option>
            ))}
          </select>
        </div>
      )}
      {shown.length > 0 && (
        <details className="mt-1 pl-6 text-note">
          <summary className="quiet cursor-pointer">shows {shown.length} stored values</summary>
          {shown.map(([drive, value]) => (
            <div key={drive} className="mt-0.5 flex items-center gap-1">
              <span className="min-w-0 flex-1 truncate">{targetName(drive)}</span>
              <NumberEntry
                label={`${targetName(drive)} at ${name}`}
                width="4.2rem"
                step={0.1}
                value={Number(short(value, 5))}
                onCommit={(to) => onChange({ shows: { ...view.shows, [drive]: to } }, "what a view shows")}
              />
              <RemoveButton
                label={`Remove ${targetName(drive)} from ${name}`}
                title="Do not store this with the view"
                onClick={() =>
                  onChange(
                    { shows: Object.fromEntries(shown.filter(([other]) => other !== drive)) },
                    "what a view shows",
                  )
                }
              />
            </div>
          ))}
        </details>
      )}
    </li>
  );
}
