import { useState } from "react";
import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import type { Item } from "./reelItems";
import { Choice, Row } from "./sheetParts";

type Values = Record<string, unknown>;
/** Sets values of an item; those that are worked out from what it has are so from what the last edit left. */
export type SetValues = (values: Values | ((item: Item) => Values), what: string) => void;

export function PlayedRows({
  item,
  passes = [],
  set,
}: {
  item: Extract<Item, { kind: "take" | "shot" | "clip" | "stills" }>;
  /** Cameras and passes that it could show. */
  passes?: [string, string][];
  set: SetValues;
}) {
  const seen = "camera" in item ? passes.findIndex((one) => isShown(item, one)) : -1;
  return (
    <>
      {passes.length > 1 && (
        <Row name="Shows">
          <Choice
            label="Camera and pass"
            value={String(Math.max(seen, 0))}
            options={Object.fromEntries(passes.map((one, at) => [String(at), one.join(", ")]))}
            onPick={(at) => {
              const [camera, render_pass] = passes[Number(at)] ?? ["", ""];
              set({ camera, render_pass }, "the camera and pass");
            }}
          />
        </Row>
      )}
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
        <RepeatEntry item={item} set={set} />
        <Choice
          label="Order"
          value={item.order ?? "forward"}
          options={{ forward: "forward", backward: "backward", "there-and-back": "there and back" }}
          onPick={(order) => set({ order }, "the order of frames")}
        />
      </Row>
      <Length item={item} set={set} empty="its own" />
      <Row name="Speed">
        <SpeedEntry item={item} set={set} />
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
      {item.kind === "clip" && (
        <Row name="Sound">
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={item.audible ?? false}
              onChange={(event) => set({ audible: event.target.checked }, "the clip's sound")}
            />
            Play the clip's own sound
          </label>
        </Row>
      )}
    </>
  );
}

interface Paced {
  item: { repeat?: number; speed?: number };
  set: SetValues;
}

export function RepeatEntry({ item, set }: Paced) {
  return (
    <NumberEntry
      label="Repeat"
      whole
      width="4.5rem"
      min={1}
      max={10000}
      value={item.repeat ?? 1}
      onCommit={(repeat) => set({ repeat }, "the repeats")}
    />
  );
}

export function SpeedEntry({ item, set }: Paced) {
  return (
    <NumberEntry
      label="Speed"
      width="4.5rem"
      min={0.001}
      max={1000}
      value={item.speed ?? 1}
      onCommit={(speed) => set({ speed, seconds: null, frames: null }, "the speed")}
    />
  );
}

/** Whether an item shows a camera and pass; what it does not name is the first there is. */
const isShown = (item: { camera?: string; render_pass?: string }, [camera, pass]: [string, string]) =>
  (!item.camera || item.camera === camera) && (!item.render_pass || item.render_pass === pass);

export function TitleRows({ item, set }: { item: Extract<Item, { kind: "title" }>; set: SetValues }) {
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
export function Length({ item, set, empty }: { item: Item; set: SetValues; empty: string }) {
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
