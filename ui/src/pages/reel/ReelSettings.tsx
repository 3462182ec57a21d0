import { useMutation } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import type { ReactNode } from "react";
import { body, client } from "../../api/client";
import { FormRows } from "../../form/FormRows";
import { type Label, LabelList } from "../../form/LabelList";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { TextEntry } from "../../parts/entries/TextEntry";
import type { ReelData, ReelDocument } from "./reelItems";
import { Tool } from "./sheetParts";
import type { ReelEdits } from "./useReel";

type Sound = NonNullable<ReelDocument["sound"]>[number];

interface Props {
  reel: ReelData;
  edits: ReelEdits;
  frame: number;
}

/** Lists with one of their parts changed, or without it. */
const changed =
  <T,>(at: number, values: Partial<T>) =>
  (list: T[]) =>
    list.map((one, n) => (n === at ? { ...one, ...values } : one));
const without =
  (at: number) =>
  <T,>(list: T[]) =>
    list.filter((_, n) => n !== at);

/** Sounds below the picture, and how loud they are as a whole. */
export function SoundRows({ reel, edits }: Omit<Props, "frame">) {
  const sounds = reel.document.sound ?? [];
  const set = (make: (now: Sound[]) => Sound[]) =>
    edits.edit(({ document }) => ({ sound: make(document.sound ?? []) }), "the sound");
  const change = (at: number, values: Partial<Sound>) => set(changed<Sound>(at, values));
  return (
    <Part name="Sound" count={sounds.length}>
      {sounds.map((one, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a sound's place is its identity
        <div key={at} className="flex flex-col gap-1.5 rounded-box border p-2 rule">
          <div className="mb-1 flex items-center gap-1">
            <span className="min-w-0 flex-1 truncate font-semibold" title={one.file}>
              {one.file.split("/").at(-1)}
            </span>
            <Tool label={`Remove ${one.file}`} onPress={() => set(without(at))}>
              <X size={14} aria-hidden />
            </Tool>
          </div>
          <FormRows form="sound" values={one} onSet={(values: Partial<Sound>) => change(at, values)} />
        </div>
      ))}
      <div>
        <FormRows form="reel.sound" values={reel.document} onSet={edits.change} />
      </div>
      <AddFile
        label="Sound file"
        placeholder="../sounds/tide.wav"
        onAdd={(file) => set((now) => [...now, { file } as Sound])}
      />
    </Part>
  );
}

/** Texts that lie over all of the reel. */
export function LabelRows({ reel, edits }: Omit<Props, "frame">) {
  const labels = reel.document.labels ?? [];
  return (
    <Part name="Labels" count={labels.length}>
      <LabelList
        labels={labels as Label[]}
        text="{item} {timecode}"
        onChange={(make) =>
          edits.edit(({ document }) => ({ labels: make((document.labels ?? []) as Label[]) }), "the labels")
        }
      />
      <p className="quiet text-note">
        {"{frame} {seconds} {timecode} {phase} {count} {item}, and dials of what is shown by their names"}
      </p>
    </Part>
  );
}

/** An image in a corner of all frames. */
export function MarkRows({ reel, edits }: Omit<Props, "frame">) {
  const mark = reel.document.mark;
  const set = (values: Record<string, unknown> | null) =>
    edits.edit(({ document }) => ({ mark: values && { ...document.mark, ...values } }), "the watermark");
  return (
    <Part name="Watermark" count={mark ? 1 : 0}>
      {mark ? (
        <>
          <div className="flex items-center gap-1">
            <span className="min-w-0 flex-1 truncate font-semibold" title={mark.file}>
              {mark.file.split("/").at(-1)}
            </span>
            <Tool label="Remove the watermark" onPress={() => set(null)}>
              <X size={14} aria-hidden />
            </Tool>
          </div>
          <div>
            <FormRows form="mark" values={mark} onSet={set} />
          </div>
        </>
      ) : (
        <AddFile
          label="Image of the watermark"
          placeholder="../images/mark.png"
          onAdd={(file) => set({ file })}
        />
      )}
    </Part>
  );
}

/** A piece may be counted at half its tempo, or at twice: people differ there too. */
const PULSES = [
  ["twice", "Twice as many", "A marker between any two beats as well"],
  ["half", "Half as many", "Only every second beat"],
] as const;

/** Named frames, such as beats, to which cuts can be laid. */
export function MarkerRows({ reel, edits, frame }: Props) {
  const markers = reel.document.markers ?? [];
  const sound = reel.document.sound ?? [];
  const press = useMutation({
    mutationFn: async (what: "beats" | "twice" | "half" | "cuts") =>
      edits.take(
        await body(
          client.POST("/api/reels/{reel_id}/markers", {
            params: { path: { reel_id: reel.id }, query: { revision: reel.revision, since: reel.state } },
            body: { what },
          }),
        ),
      ),
  });
  return (
    <Part name="Markers" count={markers.length}>
      <p className="figures quiet max-h-16 overflow-auto text-note">
        {markers.length === 0 ? "none yet" : markers.map((one) => one.frame).join(", ")}
      </p>
      <div className="flex flex-wrap gap-1.5">
        <button
          type="button"
          className="btn btn-xs"
          onClick={() =>
            edits.edit(
              ({ document }) => ({
                markers: [...(document.markers ?? []), { frame, name: "" }].sort((a, b) => a.frame - b.frame),
              }),
              "the marker",
            )
          }
        >
          <Plus size={14} aria-hidden /> At frame {frame}
        </button>
        <button
          type="button"
          className="btn btn-xs"
          disabled={sound.length === 0 || press.isPending}
          title={sound.length === 0 ? "Add a sound first" : "A marker at each beat of the first sound"}
          onClick={() => press.mutate("beats")}
        >
          Find beats
        </button>
        {markers.filter((one) => one.found).length > 1 &&
          PULSES.map(([what, name, title]) => (
            <button
              key={what}
              type="button"
              className="btn btn-xs"
              disabled={press.isPending}
              title={title}
              onClick={() => press.mutate(what)}
            >
              {name}
            </button>
          ))}
        <button
          type="button"
          className="btn btn-xs"
          disabled={markers.length === 0 || press.isPending}
          title="Each cut goes to the marker that is nearest"
          onClick={() => press.mutate("cuts")}
        >
          Snap cuts to markers
        </button>
        {markers.length > 0 && (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => edits.change({ markers: [] }, "the markers")}
          >
            Remove all
          </button>
        )}
      </div>
      <ErrorAlert error={press.error} onClose={press.reset} />
    </Part>
  );
}

export function Part({ name, count, children }: { name: string; count: number; children: ReactNode }) {
  return (
    <details className="border-t pt-2 rule" open={count > 0 || undefined}>
      <summary className="cursor-pointer font-semibold">
        {name}
        {count > 0 && <span className="quiet figures ml-1.5 font-normal">{count}</span>}
      </summary>
      <div className="mt-2 flex flex-col gap-2">{children}</div>
    </details>
  );
}

function AddFile({
  label,
  placeholder,
  onAdd,
}: {
  label: string;
  placeholder: string;
  onAdd: (file: string) => void;
}) {
  return (
    <TextEntry
      label={label}
      width="100%"
      value=""
      placeholder={placeholder}
      onCommit={(file) => file.trim() && onAdd(file.trim())}
    />
  );
}
