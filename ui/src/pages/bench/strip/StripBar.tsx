import {
  ChevronFirst,
  ChevronLast,
  ChevronLeft,
  ChevronRight,
  Pause,
  Play,
  Repeat,
  ZoomIn,
  ZoomOut,
} from "lucide-react";
import type { ReactNode } from "react";
import { toggleDetails, useDetails } from "../../../parts/hooks/useDetails";
import { withKeys } from "../../../parts/shell/shortcuts";
import type { Playing, Stretch } from "../play/usePlay";

export const UNITS = ["frames", "seconds", "timecode", "phase"] as const;
export type Unit = (typeof UNITS)[number];

interface Props {
  frames: number;
  frame: number;
  onFrame: (at: number) => void;
  playing: Playing;
  loop: boolean;
  onLoop: (loop: boolean) => void;
  stretch: Stretch | null;
  onStretch: (stretch: Stretch | null) => void;
  unit: Unit;
  onUnit: (unit: Unit) => void;
  onZoom: (factor: number) => void;
  zoomed: boolean;
  children: ReactNode;
}

/** Stepping, playing, the stretch that is played, and how closely the strip is looked at. */
export function StripBar(props: Props) {
  const { frames, frame, onFrame, playing, loop, stretch, onStretch } = props;
  const last = frames - 1;
  const details = useDetails();
  return (
    <div className="mb-0.5 flex min-h-7 items-center gap-1 text-small max-lg:flex-wrap">
      {details && (
        <Tool label="First frame (Home)" onClick={() => onFrame(0)} icon={<ChevronFirst size={16} />} />
      )}
      <Tool
        label="Previous frame (left arrow)"
        onClick={() => onFrame(Math.max(frame - 1, 0))}
        icon={<ChevronLeft size={16} />}
      />
      <button
        type="button"
        className="btn btn-primary btn-xs w-16 font-normal"
        aria-pressed={playing.going}
        title={withKeys(playing.going ? "Stop" : "Play at the true rate", "play")}
        onClick={playing.toggle}
      >
        {playing.going ? <Pause size={14} aria-hidden /> : <Play size={14} aria-hidden />}
        {playing.going ? "Stop" : "Play"}
      </button>
      <Tool
        label="Next frame (right arrow)"
        onClick={() => onFrame(Math.min(frame + 1, last))}
        icon={<ChevronRight size={16} />}
      />
      {details && (
        <Tool label="Last frame (End)" onClick={() => onFrame(last)} icon={<ChevronLast size={16} />} />
      )}
      {(details || !loop) && (
        <Tool
          label={withKeys("Loop playback", "loop")}
          pressed={loop}
          onClick={() => props.onLoop(!loop)}
          icon={<Repeat size={14} />}
        />
      )}
      {(details || stretch) && (
        <span className="ml-1 flex items-center gap-0.5 border-l rule pl-2">
          <Tool
            label={withKeys("Play from here", "playFrom")}
            pressed={stretch !== null}
            onClick={() => onStretch({ from: frame, to: Math.max(stretch?.to ?? last, frame) })}
            icon={<span className="figures text-body">[</span>}
          />
          <Tool
            label={withKeys("Play to here", "playTo")}
            pressed={stretch !== null}
            onClick={() => onStretch({ from: Math.min(stretch?.from ?? 0, frame), to: frame })}
            icon={<span className="figures text-body">]</span>}
          />
          {stretch && (
            <button
              type="button"
              className="btn btn-ghost btn-xs figures font-normal"
              title={withKeys("Play the whole shot", "playAll")}
              onClick={() => onStretch(null)}
            >
              {stretch.from}–{stretch.to} ×
            </button>
          )}
        </span>
      )}
      {props.children}
      {details && (
        <select
          className="entry w-28 shrink-0 text-small"
          aria-label="Ruler unit"
          value={props.unit}
          onChange={(event) => props.onUnit(event.target.value as Unit)}
        >
          {UNITS.map((unit) => (
            <option key={unit}>{unit}</option>
          ))}
        </select>
      )}
      {(details || props.zoomed) && (
        <>
          <Tool
            label={withKeys("Zoom in", "zoomIn")}
            onClick={() => props.onZoom(1.6)}
            icon={<ZoomIn size={15} />}
          />
          <Tool
            label={withKeys("Zoom out", "zoomOut")}
            onClick={() => props.onZoom(1 / 1.6)}
            icon={<ZoomOut size={15} />}
            disabled={!props.zoomed}
          />
          <button
            type="button"
            className="btn btn-ghost btn-xs px-1 font-normal"
            title={withKeys("See all frames", "seeAll")}
            disabled={!props.zoomed}
            onClick={() => props.onZoom(0)}
          >
            all
          </button>
        </>
      )}
      <button
        type="button"
        className={`btn btn-ghost btn-xs px-1.5 font-normal ${details ? "text-primary" : ""}`}
        aria-pressed={details}
        title="Locks, degrees per frame, play range, ruler unit, zoom, guides and comparison"
        onClick={toggleDetails}
      >
        Details
      </button>
    </div>
  );
}

interface ToolProps {
  label: string;
  onClick: () => void;
  icon: ReactNode;
  pressed?: boolean;
  disabled?: boolean;
}

function Tool({ label, onClick, icon, pressed, disabled }: ToolProps) {
  return (
    <button
      type="button"
      className={`btn btn-ghost btn-xs btn-square ${pressed ? "text-primary" : ""}`}
      aria-label={label}
      aria-pressed={pressed}
      title={label}
      disabled={disabled}
      onClick={onClick}
    >
      {icon}
    </button>
  );
}
