import { ArrowLeft, ArrowRight, Copy, Trash2 } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Complaint } from "../../parts/Complaint";
import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import { type Item, type ReelData, type Selection, withItem, withJoint } from "./reelItems";
import type { ReelEdits } from "./useReel";

interface Props {
  reel: ReelData;
  edits: ReelEdits;
  selection: Selection;
  onMove: (from: number, to: number) => void;
  onRemove: (item: number) => void;
}

/** What belongs to the selected item or joint, or to the reel as a whole. */
export function ReelSheet({ reel, edits, selection, onMove, onRemove }: Props) {
  const number = selection.of === "reel" ? -1 : selection.item;
  const item = edits.items[number];
  if (selection.of === "reel" || !item) return <WholeReel reel={reel} edits={edits} />;
  if (selection.of === "joint") return <JointSheet reel={reel} edits={edits} number={number} />;
  const set = (values: Record<string, unknown>, what: string) =>
    edits.setItems((all) => withItem(all, number, values), what);
  const shown = reel.items[number];
  return (
    <Box name={shown?.name ?? item.kind} about={`${item.kind}${shown?.source ? ` · ${shown.source}` : ""}`}>
      <div className="flex gap-1">
        <Tool label="Move left" disabled={number === 0} onPress={() => onMove(number, number - 1)}>
          <ArrowLeft size={15} aria-hidden />
        </Tool>
        <Tool
          label="Move right"
          disabled={number === edits.items.length - 1}
          onPress={() => onMove(number, number + 1)}
        >
          <ArrowRight size={15} aria-hidden />
        </Tool>
        <Tool
          label="Duplicate"
          onPress={() =>
            edits.setItems(
              (all) => [...all.slice(0, number + 1), item, ...all.slice(number + 1)],
              "the duplicate",
            )
          }
        >
          <Copy size={15} aria-hidden />
        </Tool>
        <Tool label="Remove" onPress={() => onRemove(number)}>
          <Trash2 size={15} aria-hidden />
        </Tool>
      </div>
      {item.kind === "title" && <TitleRows item={item} set={set} />}
      {"speed" in item && item.kind !== "group" && item.kind !== "reel" && (
        <PlayedRows item={item} set={set} />
      )}
      {(item.kind === "gap" || item.kind === "group" || item.kind === "layout") && (
        <Length item={item} set={set} empty="its own" />
      )}
      <AsJson value={item} onCommit={(value) => set(value, "the item")} />
    </Box>
  );
}

type Set = (values: Record<string, unknown>, what: string) => void;

function PlayedRows({
  item,
  set,
}: {
  item: Extract<Item, { kind: "take" | "shot" | "clip" | "stills" }>;
  set: Set;
}) {
  return (
    <>
      <Row name="Frames">
        <NumberEntry
          label="First frame"
          whole
          width="4.5rem"
          min={0}
          value={item.first ?? 0}
          onCommit={(first) => set({ first }, "the first frame")}
        />
        –
        <TextEntry
          label="Last frame"
          width="4.5rem"
          value={item.last === null || item.last === undefined ? "" : String(item.last)}
          placeholder="last"
          onCommit={(text) => set({ last: text ? Number(text) : null }, "the last frame")}
        />
      </Row>
      <Row name="Repeat">
        <NumberEntry
          label="Repeat"
          whole
          width="4.5rem"
          min={1}
          max={10000}
          value={item.repeat ?? 1}
          onCommit={(repeat) => set({ repeat }, "the repeats")}
        />
        <Choice
          label="Order"
          value={item.order ?? "forward"}
          options={{ forward: "forward", backward: "backward", "there-and-back": "there and back" }}
          onPick={(order) => set({ order }, "the order of frames")}
        />
      </Row>
      <Length item={item} set={set} empty="its own" />
      <Row name="Speed">
        <NumberEntry
          label="Speed"
          width="4.5rem"
          min={0.001}
          max={1000}
          value={item.speed ?? 1}
          onCommit={(speed) => set({ speed, seconds: null, frames: null }, "the speed")}
        />
        <Choice
          label="Between frames"
          value={item.between ?? "nearest"}
          options={{ nearest: "nearest frame", blend: "blended", refuse: "refuse", true: "true frames" }}
          onPick={(between) => set({ between }, "what is between frames")}
        />
      </Row>
      <Row name="Hold">
        <NumberEntry
          label="Frames held before"
          whole
          width="4.5rem"
          min={0}
          value={item.hold_start ?? 0}
          onCommit={(hold_start) => set({ hold_start }, "the hold")}
        />
        <NumberEntry
          label="Frames held after"
          whole
          width="4.5rem"
          min={0}
          value={item.hold_end ?? 0}
          onCommit={(hold_end) => set({ hold_end }, "the hold")}
        />
        <span className="quiet text-note">before, after</span>
      </Row>
      <Row name="Fit">
        <Choice
          label="Fit"
          value={item.fit ?? "contain"}
          options={{ contain: "whole picture", cover: "fill the frame", none: "as it is" }}
          onPick={(fit) => set({ fit }, "the fit")}
        />
      </Row>
    </>
  );
}

function TitleRows({ item, set }: { item: Extract<Item, { kind: "title" }>; set: Set }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <>
      <textarea
        className="w-full rounded-box border rule bg-base-100 p-2"
        rows={3}
        aria-label="Text of the title"
        value={text ?? item.text ?? ""}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          if (text !== null && text !== item.text) set({ text }, "the title's text");
          setText(null);
        }}
      />
      <Length item={item} set={set} empty="3 s" />
      <Row name="Colour">
        <TextEntry
          label="Colour of the text"
          width="6rem"
          value={item.colour ?? "#ffffff"}
          onCommit={(colour) => set({ colour }, "the colour")}
        />
        <TextEntry
          label="Background of the title"
          width="6rem"
          value={item.background ?? ""}
          placeholder="the reel's"
          onCommit={(text) => set({ background: text || null }, "the background")}
        />
      </Row>
    </>
  );
}

/** A length to which something is fitted; empty leaves its own. */
function Length({ item, set, empty }: { item: Item; set: Set; empty: string }) {
  const value = item.frames ? `${item.frames} f` : item.seconds ? `${item.seconds} s` : "";
  return (
    <Row name="Length">
      <TextEntry
        label="Length"
        width="6rem"
        value={value}
        placeholder={empty}
        onCommit={(text) => {
          const found = /^([\d.]+)\s*(f|frames|s)?$/.exec(text.trim());
          const amount = found ? Number(found[1]) : null;
          const frames = found?.[2]?.startsWith("f") ? amount : null;
          set(
            { frames, seconds: frames === null ? amount : null, ...("speed" in item ? { speed: 1 } : {}) },
            "the length",
          );
        }}
      />
      <span className="quiet text-note">2.5 s or 60 f</span>
    </Row>
  );
}

function JointSheet({ reel, edits, number }: { reel: ReelData; edits: ReelEdits; number: number }) {
  const joint = edits.items[number]?.joint ?? {};
  const set = (values: Parameters<typeof withJoint>[2]) =>
    edits.setItems((all) => withJoint(all, number, values), "the joint");
  const kind = joint.kind ?? "cut";
  const names = [reel.items[number]?.name, reel.items[number + 1]?.name];
  return (
    <Box name="Joint" about={`${names[0]} → ${names[1]}`}>
      <Row name="Kind">
        <Choice
          label="Kind of joint"
          value={kind}
          options={{
            cut: "cut",
            "cross-fade": "cross-fade",
            colour: "through a colour",
            wipe: "wipe",
            slide: "slide",
          }}
          onPick={(next) => set({ kind: next, frames: next === "cut" ? 0 : joint.frames || 12 })}
        />
      </Row>
      {kind !== "cut" && (
        <Row name="Frames">
          <NumberEntry
            label="Frames of the joint"
            whole
            width="4.5rem"
            min={1}
            max={100000}
            value={joint.frames ?? 0}
            onCommit={(frames) => set({ frames })}
          />
          <span className="quiet text-note">{((joint.frames ?? 0) / reel.rate).toFixed(2)} s</span>
        </Row>
      )}
      {kind === "colour" && (
        <Row name="Colour">
          <TextEntry
            label="Colour of the joint"
            width="6rem"
            value={joint.colour ?? "#000000"}
            onCommit={(colour) => set({ colour })}
          />
        </Row>
      )}
      {(kind === "wipe" || kind === "slide") && (
        <Row name="Towards">
          <Choice
            label="Direction"
            value={joint.towards ?? "left"}
            options={{ left: "left", right: "right", up: "up", down: "down" }}
            onPick={(towards) => set({ towards })}
          />
        </Row>
      )}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={joint.in_step ?? false}
          onChange={(event) => set({ in_step: event.target.checked })}
        />
        In step: the motion goes on, only the look changes
      </label>
    </Box>
  );
}

function WholeReel({ reel, edits }: { reel: ReelData; edits: ReelEdits }) {
  const { document } = reel;
  const sizes = { width: document.width ?? 1920, height: document.height ?? 1080 };
  return (
    <Box name="The reel" about={reel.path}>
      <Row name="Rate">
        <TextEntry
          label="Rate of the reel"
          width="6rem"
          value={document.rate ?? "24"}
          onCommit={(rate) => edits.change({ rate }, "the rate")}
        />
        <span className="quiet text-note">fps</span>
      </Row>
      <Row name="Size">
        {(["width", "height"] as const).map((side) => (
          <NumberEntry
            key={side}
            label={side === "width" ? "Width" : "Height"}
            whole
            width="5rem"
            min={16}
            max={16384}
            value={sizes[side]}
            onCommit={(value) => edits.change({ [side]: value }, "the size")}
          />
        ))}
      </Row>
      <Row name="Background">
        <TextEntry
          label="Background of the reel"
          width="7rem"
          value={document.background ?? ""}
          onCommit={(background) => edits.change({ background }, "the background")}
        />
      </Row>
      <Row name="Fit to">
        <TextEntry
          label="Length of the reel"
          width="6rem"
          value={document.seconds ? `${document.seconds} s` : ""}
          placeholder="its own"
          onCommit={(text) =>
            edits.change({ seconds: text ? Number.parseFloat(text) : null, frames: null }, "the length")
          }
        />
        <span className="quiet text-note">12 s</span>
      </Row>
      <AsJson
        value={{
          labels: document.labels,
          mark: document.mark,
          sound: document.sound,
          loudness: document.loudness,
          markers: document.markers,
        }}
        name="Labels, mark, sound and markers as JSON"
        onCommit={(value) => edits.change(value, "the labels or sound")}
      />
    </Box>
  );
}

function Box({ name, about, children }: { name: string; about: string; children: ReactNode }) {
  return (
    <section
      aria-label={name}
      className="flex flex-col gap-2 rounded-box border rule bg-base-100 p-3 text-small"
      data-testid="reel-sheet"
    >
      <div>
        <h2 className="truncate text-base font-semibold">{name}</h2>
        <p className="quiet break-words text-note">{about}</p>
      </div>
      {children}
    </section>
  );
}

function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2">
      <span className="w-20 shrink-0">{name}</span>
      {children}
    </div>
  );
}

function Tool({
  label,
  disabled,
  onPress,
  children,
}: {
  label: string;
  disabled?: boolean;
  onPress: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={label}
      title={label}
      disabled={disabled}
      onClick={onPress}
    >
      {children}
    </button>
  );
}

function Choice<K extends string>({
  label,
  value,
  options,
  onPick,
}: {
  label: string;
  value: K;
  options: Record<K, string>;
  onPick: (value: K) => void;
}) {
  return (
    <select
      className="select select-sm w-auto"
      aria-label={label}
      value={value}
      onChange={(event) => onPick(event.target.value as K)}
    >
      {(Object.keys(options) as K[]).map((one) => (
        <option key={one} value={one}>
          {options[one]}
        </option>
      ))}
    </select>
  );
}

/** All of something as JSON: what has no control of its own is set here. */
function AsJson({
  value,
  name = "All of it as JSON",
  onCommit,
}: {
  value: unknown;
  name?: string;
  onCommit: (value: Record<string, unknown>) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  return (
    <details>
      <summary className="cursor-pointer">{name}</summary>
      <textarea
        rows={10}
        spellCheck={false}
        className="figures mt-1 block w-full rounded-box border rule bg-base-100 p-2 text-note"
        aria-label={name}
        value={text ?? JSON.stringify(value, null, 1)}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          if (text === null) return;
          try {
            onCommit(JSON.parse(text) as Record<string, unknown>);
            setText(null);
            setWrong("");
          } catch (error) {
            setWrong(`This is not JSON: ${(error as Error).message}`);
          }
        }}
      />
      <Complaint error={wrong} />
    </details>
  );
}
