import { useMutation } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import type { ReactNode } from "react";
import { body, client } from "../../api/client";
import { Complaint } from "../../parts/Complaint";
import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import type { ReelData, ReelDocument } from "./reelItems";
import { Choice, Row, Tool } from "./sheetParts";
import type { ReelEdits } from "./useReel";

type Sound = NonNullable<ReelDocument["sound"]>[number];
type Label = NonNullable<ReelDocument["labels"]>[number];

interface Props {
  reel: ReelData;
  edits: ReelEdits;
  frame: number;
}

/** Places of a label, as shares of the frame, with how its text lies there. */
const PLACES: Record<string, { at: [number, number]; align: "left" | "middle" | "right" }> = {
  "top left": { at: [0.03, 0.07], align: "left" },
  "top right": { at: [0.97, 0.07], align: "right" },
  "bottom left": { at: [0.03, 0.95], align: "left" },
  "bottom middle": { at: [0.5, 0.95], align: "middle" },
  "bottom right": { at: [0.97, 0.95], align: "right" },
};
const NEW_LABEL: Label = {
  text: "{item} {timecode}",
  name: "",
  value: 0,
  at: [0.03, 0.95],
  size: 0.035,
  colour: "#ffffff",
  align: "left",
};
const CORNERS = {
  "top-left": "top left",
  "top-right": "top right",
  "bottom-left": "bottom left",
  "bottom-right": "bottom right",
};

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
        // biome-ignore lint/suspicious/noArrayIndexKey: sounds are told by their place
        <div key={at} className="flex flex-col gap-1.5 rounded-box border p-2 rule">
          <div className="mb-1 flex items-center gap-1">
            <span className="min-w-0 flex-1 truncate font-semibold" title={one.file}>
              {one.file.split("/").at(-1)}
            </span>
            <Tool label={`Remove ${one.file}`} onPress={() => set(without(at))}>
              <X size={14} aria-hidden />
            </Tool>
          </div>
          <Row name="Begins at">
            <Seconds
              label="Sound begins at"
              value={one.at ?? 0}
              onCommit={(value) => change(at, { at: value })}
            />
            <span>from</span>
            <Seconds
              label="From second of the file"
              value={one.first ?? 0}
              onCommit={(first) => change(at, { first })}
            />
          </Row>
          <Row name="Lasts">
            <TextEntry
              label="Seconds of the sound"
              width="4.5rem"
              value={one.seconds ? String(one.seconds) : ""}
              placeholder="all"
              onCommit={(text) => change(at, { seconds: text ? Number.parseFloat(text) : null })}
            />
            <span>gain</span>
            <NumberEntry
              label="Gain in dB"
              width="4rem"
              min={-96}
              max={24}
              value={one.gain_db ?? 0}
              onCommit={(gain_db) => change(at, { gain_db })}
            />
            <span className="quiet text-note">dB</span>
          </Row>
          <Row name="Fades">
            <Seconds
              label="Fade in"
              value={one.fade_in ?? 0}
              onCommit={(fade_in) => change(at, { fade_in })}
            />
            <Seconds
              label="Fade out"
              value={one.fade_out ?? 0}
              onCommit={(fade_out) => change(at, { fade_out })}
            />
            <span className="quiet text-note">in, out</span>
          </Row>
        </div>
      ))}
      <Row name="Loudness">
        <TextEntry
          label="Loudness"
          width="6rem"
          value={
            reel.document.loudness === null || reel.document.loudness === undefined
              ? ""
              : String(reel.document.loudness)
          }
          placeholder="as it is"
          onCommit={(text) =>
            edits.change(
              { loudness: text ? Number.parseFloat(text.replace("−", "-")) : null },
              "the loudness",
            )
          }
        />
        <span className="quiet text-note">LUFS, such as −23</span>
      </Row>
      <Row name="Peaks">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={reel.document.limit ?? false}
            onChange={(event) => edits.change({ limit: event.target.checked }, "the limiter")}
          />
          Limit to −1 dBFS
        </label>
      </Row>
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
  const set = (make: (now: Label[]) => Label[]) =>
    edits.edit(({ document }) => ({ labels: make(document.labels ?? []) }), "the labels");
  const change = (at: number, values: Partial<Label>) => set(changed<Label>(at, values));
  return (
    <Part name="Labels" count={labels.length}>
      {labels.map((one, at) => {
        const place = Object.keys(PLACES).find(
          (name) => PLACES[name]?.at[0] === one.at?.[0] && PLACES[name]?.at[1] === one.at?.[1],
        );
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: labels are told by their place
          <div key={at} className="flex flex-col gap-1 rounded-box border p-2 rule">
            <div className="flex items-center gap-1">
              <TextEntry
                label={`Text of label ${at + 1}`}
                className="flex-1"
                width="100%"
                value={one.text}
                onCommit={(text) => change(at, { text })}
              />
              <Tool label={`Remove label ${at + 1}`} onPress={() => set(without(at))}>
                <X size={14} aria-hidden />
              </Tool>
            </div>
            <Row name="Place">
              <Choice
                label={`Place of label ${at + 1}`}
                value={place ?? "elsewhere"}
                options={{
                  ...Object.fromEntries(Object.keys(PLACES).map((name) => [name, name])),
                  ...(place ? {} : { elsewhere: "elsewhere" }),
                }}
                onPick={(name) => PLACES[name] && change(at, PLACES[name])}
              />
              <NumberEntry
                label={`Size of label ${at + 1}`}
                width="4rem"
                min={0.01}
                max={0.5}
                value={one.size ?? 0.04}
                onCommit={(size) => change(at, { size })}
              />
            </Row>
          </div>
        );
      })}
      <button
        type="button"
        className="btn btn-xs self-start"
        onClick={() => set((now) => [...now, NEW_LABEL])}
      >
        <Plus size={14} aria-hidden /> Label
      </button>
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
    edits.edit(({ document }) => ({ mark: values && { ...document.mark, ...values } }), "the mark");
  return (
    <Part name="Mark" count={mark ? 1 : 0}>
      {mark ? (
        <>
          <div className="flex items-center gap-1">
            <span className="min-w-0 flex-1 truncate font-semibold" title={mark.file}>
              {mark.file.split("/").at(-1)}
            </span>
            <Tool label="Remove the mark" onPress={() => set(null)}>
              <X size={14} aria-hidden />
            </Tool>
          </div>
          <Row name="Corner">
            <Choice
              label="Corner of the mark"
              value={mark.corner ?? "bottom-right"}
              options={CORNERS}
              onPick={(corner) => set({ corner })}
            />
          </Row>
          <Row name="Height">
            <NumberEntry
              label="Height of the mark"
              width="4rem"
              min={0.01}
              max={1}
              value={mark.size ?? 0.1}
              onCommit={(size) => set({ size })}
            />
            <span>opacity</span>
            <NumberEntry
              label="Opacity of the mark"
              width="4rem"
              min={0}
              max={1}
              value={mark.opacity ?? 1}
              onCommit={(opacity) => set({ opacity })}
            />
          </Row>
        </>
      ) : (
        <AddFile label="Image of the mark" placeholder="../images/mark.png" onAdd={(file) => set({ file })} />
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
          Lay cuts to markers
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
      <Complaint error={press.error} onClose={press.reset} />
    </Part>
  );
}

function Part({ name, count, children }: { name: string; count: number; children: ReactNode }) {
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

function Seconds({
  label,
  value,
  onCommit,
}: {
  label: string;
  value: number;
  onCommit: (value: number) => void;
}) {
  return <NumberEntry label={label} width="4rem" min={0} max={100000} value={value} onCommit={onCommit} />;
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
