import { useMutation, useQuery } from "@tanstack/react-query";
import { Redo2, Undo2 } from "lucide-react";
import { useState } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import { CloseButton } from "../../parts/CloseButton";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { TextEntry } from "../../parts/entries/TextEntry";
import { useChange } from "../../parts/hooks/useChange";
import { useFrameKeys } from "../../parts/hooks/useFrameKeys";
import { PageHead } from "../../parts/PageHead";
import { AddItem } from "./AddItem";
import { Cards } from "./Cards";
import { CompileReel } from "./CompileReel";
import { importFiles } from "./dropping";
import { NewReel } from "./NewReel";
import { reelsQuery } from "./queries";
import { ReelFiles } from "./ReelFiles";
import { ReelFindings } from "./ReelFindings";
import { ReelPicture } from "./ReelPicture";
import { ReelSheet } from "./ReelSheet";
import type { Unit } from "./Ruler";
import {
  type Item,
  inserted,
  moved,
  type ReelData,
  type Selection,
  selected,
  together,
  withItem,
} from "./reelItems";
import { type Trim, valuesOf } from "./trim";
import { UnreadableReel } from "./UnreadableReel";
import { usePlaying } from "./usePlaying";
import { useReel } from "./useReel";

/** The reel: items as cards in a row, the picture above, what is selected beside it. */
export function ReelPage() {
  const { reelId = "" } = useParams();
  const { data, error } = useQuery(reelsQuery);
  const reels = data?.reels ?? [];
  const id = reelId || (reels.find((one) => !one.error) ?? reels[0])?.id || "";
  if (data && id === "")
    return (
      <div className="mx-auto max-w-2xl p-8">
        <PageHead title="Reel">
          Edit takes, clips, stills and titles into one film: one after another, several at once where wanted.
        </PageHead>
        <NewReel />
      </div>
    );
  if (id) return <OneReel key={id} id={id} />;
  return (
    <div className="px-5 py-3">
      <PageHead title="Reel">{error ? "" : "Loading the reels…"}</PageHead>
      {error && <ErrorAlert error={error} />}
    </div>
  );
}

function OneReel({ id }: { id: string }) {
  const navigate = useNavigate();
  const notes = (useLocation().state as { notes?: string[] } | null)?.notes ?? [];
  const { data } = useQuery(reelsQuery);
  const edits = useReel(id);
  const { reel, items } = edits;
  const [frame, setFrame] = useState(0);
  const [selection, setSelection] = useState<Selection>({ of: "reel" });
  const [trim, setTrim] = useState<Trim | null>(null);
  const [unit, setUnit] = useState<Unit>("seconds");
  const [added, setAdded] = useState<number | null>(null);
  const [shown, setShown] = useState("");
  const format = reel?.document.formats?.find((one) => one.name === shown) ?? null;
  const player = usePlaying(reel, frame, setFrame, format?.name ?? "");
  useFrameKeys({
    frames: reel?.frames ?? 0,
    step: (to) => {
      player.stop();
      setFrame((now) => Math.max(to(now), 0));
    },
    on: { play: player.toggle, undo: edits.undo, redo: edits.redo },
  });
  const imported = useMutation({
    mutationFn: ({ files }: { files: File[]; at: number }) => importFiles(id, files),
    onSuccess: (found, { at }) => {
      if (found.items.length > 0) add(found.items as unknown as Item[], at);
      if (found.sounds.length > 0)
        edits.edit((now) => ({ sound: [...(now.document.sound ?? []), ...found.sounds] }), "the sound added");
    },
  });
  const add = (more: Item[], at: number) => {
    edits.setItems((all) => inserted(all, at, more), more.length > 1 ? "the items added" : "the item added");
    setSelection({ of: "item", item: at, to: at + more.length - 1 });
    setAdded(at);
  };
  // What was added is shown in the picture as soon as its place is known.
  useChange(`${reel?.revision} ${reel?.items.length}`, () => {
    if (added === null || !reel || reel.items.length <= added) return;
    const [from, to] = [reel.starts[added] ?? 0, reel.starts[added + 1] ?? reel.frames];
    setFrame(Math.floor((from + to) / 2));
    setAdded(null);
  });
  if (!reel)
    return edits.error ? (
      <UnreadableReel id={id} error={edits.error} reels={data?.reels ?? []} />
    ) : (
      <div className="px-5 py-3">
        <PageHead title="Reel">Loading the reel…</PageHead>
      </div>
    );
  const at = Math.min(frame, Math.max(reel.frames - 1, 0));
  const select = (next: Selection) => {
    setSelection(next);
    if (next.of === "reel" || player.playing) return;
    const item = reel.items[next.item];
    const after = reel.items[next.item + 1];
    const start = (at: number) => reel.starts[at] ?? 0;
    if (next.of === "transition" && item && after)
      setFrame(start(next.item + 1) + Math.floor(item.overlap / 2));
    else if (item) setFrame(start(next.item));
  };
  const remove = (first: number, last: number) => {
    setSelection({ of: "reel" });
    edits.setItems((all) => all.filter((_, one) => one < first || one > last), "the item removed");
  };
  const pair = pairOf(selection, items.length);
  const after = selection.of === "reel" ? items.length : selection.item + 1;
  const move = (from: number, to: number) => {
    if (to < 0 || to >= items.length || from === to) return;
    edits.setItems((all) => moved(all, from, to), "the order");
    setSelection({ of: "item", item: to });
  };
  return (
    <div
      className="flex h-full min-h-0 flex-col gap-2 px-5 py-3 max-lg:h-auto max-sm:px-3 [@media(max-height:600px)]:h-auto"
      data-testid="reel"
    >
      <header className="flex flex-wrap items-center gap-2">
        <h1 className="sr-only">{reel.document.title}, a reel</h1>
        <TextEntry
          label="Title of the reel"
          className="entry-title text-xl font-semibold"
          width="16rem"
          value={reel.document.title}
          onCommit={(title) => edits.change({ title }, "the title")}
        />
        {(data?.reels.length ?? 0) > 1 && (
          <select
            className="select select-sm w-52 text-ellipsis pr-8"
            aria-label="Reel"
            value={id}
            onChange={(event) => navigate(`/reels/${event.target.value}`)}
          >
            {data?.reels.map((one) => (
              <option key={one.id || one.title} value={one.id} disabled={!one.id}>
                {one.title}
                {one.error && " (cannot be read)"}
              </option>
            ))}
          </select>
        )}
        <NewReel small />
        <span className="flex-1" />
        <button
          type="button"
          className="btn btn-ghost btn-sm btn-square"
          aria-label="Undo"
          title={reel.undo ? `Undo ${reel.undo}` : "Nothing to undo"}
          disabled={!reel.undo}
          onClick={edits.undo}
        >
          <Undo2 size={16} aria-hidden />
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm btn-square"
          aria-label="Redo"
          title={reel.redo ? `Redo ${reel.redo}` : "Nothing to redo"}
          disabled={!reel.redo}
          onClick={edits.redo}
        >
          <Redo2 size={16} aria-hidden />
        </button>
        <CompileReel reel={reel} />
      </header>
      <Brief reel={reel} onSelect={select} />
      <div className="flex min-h-6 flex-wrap items-center gap-3">
        <p className="figures flex-1 text-small" data-testid="reel-reason">
          {reel.reason}
        </p>
        <ReelFiles reel={reel} />
      </div>
      <ErrorAlert
        error={edits.error ?? imported.error ?? (reel.trouble || null)}
        onClose={edits.error ? edits.forget : imported.error ? imported.reset : undefined}
      />
      {notes.length > 0 && (
        <div className="flex items-center gap-2 rounded-box border border-warning p-2 text-small">
          <p className="flex-1">Of the timeline: {notes.join("; ")}.</p>
          <CloseButton
            label="Close the notes"
            onClick={() => navigate(".", { replace: true, state: null })}
          />
        </div>
      )}
      <div className="flex min-h-0 flex-1 gap-4 max-lg:flex-none max-lg:flex-col [@media(max-height:600px)]:flex-none">
        <ReelPicture
          reel={reel}
          frame={at}
          player={player}
          trim={trim}
          format={format}
          onFormat={setShown}
          unit={unit}
          onUnit={setUnit}
        />
        <aside
          className="flex w-80 shrink-0 flex-col gap-3 overflow-auto max-lg:w-full"
          aria-label="Selected"
        >
          <ReelSheet
            reel={reel}
            edits={edits}
            selection={selection}
            frame={at}
            format={format}
            onSelect={setSelection}
            onMove={move}
            onRemove={remove}
          />
          <ReelFindings reel={reel} edits={edits} />
        </aside>
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <AddItem
          reel={reel}
          onAdd={(item) => add([item], after)}
          onFiles={(files) => imported.mutate({ files, at: after })}
          busy={imported.isPending}
          several={pair[1] > pair[0] ? pair[1] - pair[0] + 1 : 0}
          onTogether={(kind) => {
            edits.setItems(
              (all) => together(all, pair[0], pair[1], kind),
              kind === "layout" ? "the layout" : "the group",
            );
            setSelection({ of: "item", item: pair[0] });
          }}
        />
      </div>
      <Cards
        reel={reel}
        frame={at}
        selection={selection}
        onSelect={select}
        onFrame={(next) => {
          player.stop();
          setFrame(next);
        }}
        onMove={move}
        onRemove={remove}
        onDropItem={(item, place) => add([item], place)}
        onDropFiles={(files, place) => imported.mutate({ files, at: place })}
        unit={unit}
        onTrim={setTrim}
        onTrimmed={(next) =>
          edits.setItems(
            (all) => withItem(all, next.item, valuesOf(reel, next)),
            "the trim",
            `trim ${next.item} ${next.side}`,
          )
        }
      />
    </div>
  );
}

/** First and last of the items that can become one; none is before none. */
function pairOf(selection: Selection, count: number): [number, number] {
  const [first, last] = selected(selection);
  if (selection.of !== "item" || last > first) return [first, last];
  return first + 1 < count ? [first, first + 1] : [0, -1];
}

/** The reel as a sentence; each bold value opens what it belongs to. */
function Brief({ reel, onSelect }: { reel: ReelData; onSelect: (selection: Selection) => void }) {
  return (
    <p className="text-base leading-relaxed" data-testid="reel-brief">
      {reel.brief.map((part, at) => {
        const key = `${at} ${part.text}`;
        const space = at === 0 || part.text.startsWith(",") ? "" : " ";
        if (!part.of)
          return (
            <span key={key}>
              {space}
              {part.text}
            </span>
          );
        const next: Selection = part.of === "reel" ? { of: "reel" } : { of: part.of, item: part.item ?? 0 };
        return (
          <span key={key}>
            {space}
            <button
              type="button"
              className="cursor-pointer font-semibold underline decoration-primary/50 underline-offset-4 hover:decoration-primary"
              onClick={() => onSelect(next)}
            >
              {part.text}
            </button>
          </span>
        );
      })}
      .
    </p>
  );
}
