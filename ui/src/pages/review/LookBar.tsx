import { Choice } from "../../parts/entries/Choice";
import { NumberEntry } from "../../parts/entries/NumberEntry";
import type { Subject } from "./queries";
import { type Behind, type Channel, FIT, type Look, type Mode } from "./view";

const MODES: { value: Mode; label: string; hint: string }[] = [
  {
    value: "split",
    label: "Split",
    hint: "The second picture is under the first, behind a line that can be moved",
  },
  { value: "beside", label: "Side by side", hint: "Both pictures, moved and zoomed together" },
  { value: "flip", label: "Flip", hint: "One at a time: press x" },
  { value: "difference", label: "Difference", hint: "How far each pixel is from that of the other" },
];
const GAINS = [1, 4, 16, 64];

interface Props {
  subject: Subject;
  pass: number;
  onPass: (pass: number) => void;
  look: Look;
  onLook: (change: Partial<Look>) => void;
  two: boolean;
}

/** How the picture is looked at: camera and pass, zoom, channel, exposure, what is behind it, and two at once. */
export function LookBar({ subject, pass, onPass, look, onLook, two }: Props) {
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1.5 text-small">
      {subject.camera_passes.length > 1 && (
        <select
          className="select select-xs w-40"
          aria-label="Camera and pass"
          value={pass}
          onChange={(event) => onPass(Number(event.target.value))}
        >
          {subject.camera_passes.map((label, n) => (
            <option key={label} value={n}>
              {label}
            </option>
          ))}
        </select>
      )}
      <fieldset className="join" aria-label="Zoom">
        <button
          type="button"
          className={`btn btn-xs join-item font-normal ${look.zoom.scale ? "" : "btn-primary"}`}
          aria-pressed={!look.zoom.scale}
          onClick={() => onLook({ zoom: FIT })}
        >
          Fit
        </button>
        <button
          type="button"
          className="btn btn-xs join-item font-normal"
          title="A pixel of the picture on each pixel of the screen"
          onClick={() => onLook({ zoom: { scale: 1 / devicePixelRatio, x: 0.5, y: 0.5 } })}
        >
          1:1
        </button>
      </fieldset>
      <select
        className="select select-xs w-28"
        aria-label="Channel"
        value={look.channel}
        onChange={(event) => onLook({ channel: event.target.value as Channel })}
      >
        <option value="all">All channels</option>
        <option value="red">Red</option>
        <option value="green">Green</option>
        <option value="blue">Blue</option>
        <option value="alpha">Alpha</option>
      </select>
      <select
        className="select select-xs w-28"
        aria-label="Background"
        title="What is seen through transparent pixels"
        value={look.behind}
        onChange={(event) => onLook({ behind: event.target.value as Behind })}
      >
        <option value="checks">Over checks</option>
        <option value="black">Over black</option>
        <option value="grey">Over grey</option>
        <option value="white">Over white</option>
      </select>
      {/* Numbers of a data pass are no light. */}
      <span
        className={`flex items-center gap-1 ${subject.is_data ? "invisible" : ""}`}
        title="Light is multiplied by 2 to this power, then encoded as sRGB for the screen"
      >
        <NumberEntry
          label="Exposure"
          value={look.stops}
          min={-20}
          max={20}
          step={0.5}
          width="3.5rem"
          onCommit={(stops) => onLook({ stops })}
        />
        <span className="quiet text-note">
          stops{subject.bits === 8 ? "" : subject.bits ? ", 16 bits to sRGB" : ", light to sRGB"}
        </span>
      </span>
      {two && (
        <>
          <span className="border-l rule pl-3">
            <Choice
              label="Two pictures"
              value={look.mode}
              options={MODES}
              onChoose={(mode) => onLook({ mode })}
            />
          </span>
          {look.mode === "difference" && (
            <select
              className="select select-xs w-24"
              aria-label="Amplified"
              value={look.gain}
              onChange={(event) => onLook({ gain: Number(event.target.value) })}
            >
              {GAINS.map((gain) => (
                <option key={gain} value={gain}>
                  {gain} times
                </option>
              ))}
            </select>
          )}
          {look.mode === "flip" && (
            <button
              type="button"
              className="btn btn-xs font-normal"
              aria-pressed={look.flipped}
              title="Show the other picture (x)"
              onClick={() => onLook({ flipped: !look.flipped })}
            >
              {look.flipped ? "Second" : "First"}
            </button>
          )}
        </>
      )}
    </div>
  );
}
