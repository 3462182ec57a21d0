import {
  BookmarkPlus,
  Crosshair,
  FlipHorizontal2,
  Grid3x3,
  Maximize,
  PencilRuler,
  Rotate3d,
} from "lucide-react";
import type { ReactNode } from "react";
import { Dropdown } from "../../../parts/Dropdown";
import { useDetails } from "../../../parts/hooks/useDetails";
import { withKeys } from "../../../parts/shell/shortcuts";
import { OVERLAY_NAMES, OVERLAYS, type Overlay } from "./overlays";
import type { Compare } from "./useCompare";

interface Props {
  /** What may be looked at: cameras with their passes. */
  cameraPasses: string[];
  cameraPass: number;
  onCameraPass: (cameraPass: number) => void;
  overlays: Overlay[];
  onOverlays: (overlays: Overlay[]) => void;
  actual: boolean;
  onActual: (actual: boolean) => void;
  drawing: boolean;
  onDrawing: (drawing: boolean) => void;
  around?: boolean;
  onAround: (around: boolean) => void;
  focusing: boolean | null;
  onFocusing: (focusing: boolean) => void;
  compare: Compare;
  onTake: () => void;
  onSave?: () => void;
  hint: string;
}

/** What the viewfinder shows, and its overlays. */
export function FinderBar(props: Props) {
  const { overlays, compare } = props;
  const details = useDetails();
  const shownNow = compare.flipped ? "comparison" : "saved";
  const toggle = (name: Overlay) =>
    props.onOverlays(overlays.includes(name) ? overlays.filter((on) => on !== name) : [...overlays, name]);
  return (
    <div className="flex flex-wrap items-center gap-1 bg-black/45 px-2 py-1 text-note text-white">
      {props.onSave && (
        <button
          type="button"
          className="finder"
          title={withKeys("Save this view", "saveView")}
          onClick={props.onSave}
        >
          <BookmarkPlus size={15} aria-hidden /> Save this view
        </button>
      )}
      {props.cameraPasses.length > 1 && (
        <select
          className="finder max-w-44"
          aria-label="Look through"
          value={props.cameraPass}
          onChange={(event) => props.onCameraPass(Number(event.target.value))}
        >
          {props.cameraPasses.map((name, n) => (
            <option key={name} value={n} className="text-black">
              {name}
            </option>
          ))}
        </select>
      )}
      <span className="min-w-0 flex-1 truncate px-2 opacity-90" data-testid="hint">
        {props.hint}
      </span>
      {compare.other && (
        <>
          <Tool
            label={withKeys(`Switch: ${shownNow}`, "compare")}
            pressed={compare.flipped}
            onClick={compare.flip}
          >
            <FlipHorizontal2 size={15} aria-hidden /> {shownNow}
          </Tool>
          {compare.flipped && (
            <button type="button" className="finder" onClick={props.onTake}>
              Use this one
            </button>
          )}
          <button type="button" className="finder" onClick={compare.forget}>
            Discard
          </button>
        </>
      )}
      {details && !compare.other && (
        <Tool label={withKeys("Compare: keep this camera", "compare")} onClick={compare.keep}>
          <FlipHorizontal2 size={15} aria-hidden /> Compare
        </Tool>
      )}
      {props.focusing !== null && (
        <Tool
          label="Click in the picture to set the focus"
          pressed={props.focusing}
          onClick={() => props.onFocusing(!props.focusing)}
        >
          <Crosshair size={15} aria-hidden /> Focus
        </Tool>
      )}
      {props.around !== undefined && (
        <Tool
          label="Look around in the panorama"
          pressed={props.around}
          onClick={() => props.onAround(!props.around)}
        >
          <Rotate3d size={15} aria-hidden /> Inside
        </Tool>
      )}
      {(details || overlays.length > 0) && (
        <Dropdown
          place="dropdown-top dropdown-end"
          title="Guides over the picture"
          className={`finder cursor-pointer list-none ${overlays.length ? "finder-on" : ""}`}
          summary={
            <>
              <Grid3x3 size={15} aria-hidden /> Guides
            </>
          }
        >
          {() => <GuideChoices overlays={overlays} onToggle={toggle} />}
        </Dropdown>
      )}
      {(details || props.actual) && (
        <Tool label="1:1, actual pixels" pressed={props.actual} onClick={() => props.onActual(!props.actual)}>
          <Maximize size={15} aria-hidden /> 1:1
        </Tool>
      )}
      <Tool
        label={withKeys("Plan and elevation", "drawing")}
        pressed={props.drawing}
        onClick={() => props.onDrawing(!props.drawing)}
      >
        <PencilRuler size={15} aria-hidden /> Plan
      </Tool>
    </div>
  );
}

/** The guides as one stop of the tab key; arrow keys go from one to the next. */
function GuideChoices({ overlays, onToggle }: { overlays: Overlay[]; onToggle: (name: Overlay) => void }) {
  return (
    <fieldset
      className="dropdown-content z-30 mb-1 w-52 rounded-box border rule bg-base-100 p-2 text-base-content"
      aria-label="Guides (not captured)"
      data-own-keys
      onKeyDown={(event) => {
        const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
        if (!by) return;
        event.preventDefault();
        const boxes = [...event.currentTarget.querySelectorAll("input")];
        const at = boxes.indexOf(event.target as HTMLInputElement);
        boxes[(at + by + boxes.length) % boxes.length]?.focus();
      }}
    >
      {OVERLAY_NAMES.map((name, n) => (
        <label key={name} className="flex items-center gap-2 py-0.5 text-small">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            tabIndex={n === 0 ? 0 : -1}
            checked={overlays.includes(name)}
            onChange={() => onToggle(name)}
          />
          {OVERLAYS[name]}
        </label>
      ))}
    </fieldset>
  );
}

interface ToolProps {
  label: string;
  pressed?: boolean;
  onClick: () => void;
  children: ReactNode;
}

function Tool({ label, pressed, onClick, children }: ToolProps) {
  return (
    <button
      type="button"
      className={`finder ${pressed ? "finder-on" : ""}`}
      title={label}
      aria-label={label}
      aria-pressed={pressed}
      onClick={onClick}
    >
      {children}
    </button>
  );
}
