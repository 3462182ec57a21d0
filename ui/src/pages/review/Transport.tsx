import { useQuery } from "@tanstack/react-query";
import {
  ArrowLeftRight,
  ChevronFirst,
  ChevronLast,
  ChevronLeft,
  ChevronRight,
  Pause,
  Play,
  Repeat,
} from "lucide-react";
import { type ReactNode, useRef, useState } from "react";
import { body, client } from "../../api/client";
import { short } from "../../parts/format";
import { withKeys } from "../../parts/shell/shortcuts";
import { type After, type Playhead, usePlayhead } from "./playhead";
import type { Of, Subject } from "./queries";

const SPEEDS = [0.1, 0.25, 0.5, 1, 2, 4];

interface Props {
  playhead: Playhead;
  of: Of;
  subject: Subject;
  children?: ReactNode;
}

/** Stepping, playing, the stretch that is played, and the frame as it can be typed. */
export function Transport({ playhead, of, subject, children }: Props) {
  const { frame, playing, way, speed, after, from, to, achieved, dropped } = usePlayhead(playhead);
  const last = subject.count - 1;
  const go = (at: number) => {
    playhead.pause();
    playhead.set({ frame: at });
  };
  const part = from > 0 || to < last;
  return (
    <div className="flex flex-wrap items-center gap-1 text-small" role="toolbar" aria-label="Player">
      <Tool label="First frame (Home)" onClick={() => go(0)}>
        <ChevronFirst size={16} />
      </Tool>
      <Tool label="Previous frame (left arrow)" onClick={() => go(frame - 1)}>
        <ChevronLeft size={16} />
      </Tool>
      <Tool
        label="Play backwards"
        pressed={playing && way < 0}
        onClick={() => (playing && way < 0 ? playhead.pause() : playhead.play(-1))}
      >
        <Play size={14} className="rotate-180" />
      </Tool>
      <button
        type="button"
        className="btn btn-primary btn-xs w-16 font-normal"
        aria-pressed={playing}
        title={withKeys(playing ? "Stop" : "Play at the true rate", "play")}
        onClick={() => (playing ? playhead.pause() : playhead.play(1))}
      >
        {playing ? <Pause size={14} aria-hidden /> : <Play size={14} aria-hidden />}
        {playing ? "Stop" : "Play"}
      </button>
      <Tool label="Next frame (right arrow)" onClick={() => go(frame + 1)}>
        <ChevronRight size={16} />
      </Tool>
      <Tool label="Last frame (End)" onClick={() => go(last)}>
        <ChevronLast size={16} />
      </Tool>
      <FrameEntry playhead={playhead} of={of} subject={subject} />
      <Tool
        label={withKeys("Loop playback", "loop")}
        pressed={after === "loop"}
        onClick={() => playhead.set({ after: after === "loop" ? "stop" : "loop" })}
      >
        <Repeat size={14} />
      </Tool>
      <Tool
        label="Play forwards and back"
        pressed={after === "turn"}
        onClick={() => playhead.set({ after: nextAfter(after) })}
      >
        <ArrowLeftRight size={14} />
      </Tool>
      <Tool
        label={withKeys("Play from this frame", "playFrom")}
        onClick={() => playhead.set({ from: frame, to: Math.max(to, frame) })}
      >
        <span aria-hidden>[</span>
      </Tool>
      <Tool
        label={withKeys("Play up to this frame", "playTo")}
        onClick={() => playhead.set({ to: frame, from: Math.min(from, frame) })}
      >
        <span aria-hidden>]</span>
      </Tool>
      {part && (
        <button
          type="button"
          className="btn btn-ghost btn-xs font-normal"
          title={withKeys("Play all", "playAll")}
          onClick={() => playhead.set({ from: 0, to: last })}
        >
          <span className="figures">
            {from + subject.first} to {to + subject.first}
          </span>{" "}
          · play all
        </button>
      )}
      <select
        className="select select-xs w-20"
        aria-label="Speed"
        value={speed}
        onChange={(event) => playhead.set({ speed: Number(event.target.value) })}
      >
        {SPEEDS.map((one) => (
          <option key={one} value={one}>
            {one} ×
          </option>
        ))}
      </select>
      <span className="figures quiet ml-1 whitespace-nowrap" data-testid="rate">
        {short(subject.fps * speed, 3)} fps
        {playing && achieved > 0 && `, ${achieved.toFixed(1)} achieved`}
        {playing && dropped > 0 && `, ${dropped} left out`}
      </span>
      <span className="flex-1" />
      {children}
    </div>
  );
}

const nextAfter = (after: After): After => (after === "turn" ? "loop" : "turn");

/** The frame at the playhead; another one can be typed, also as seconds or timecode. */
function FrameEntry({ playhead, of, subject }: Props) {
  const { frame, playing } = usePlayhead(playhead);
  const [draft, setDraft] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  const place = (text: string) =>
    body(
      client.GET("/api/reviews/{kind}/{name}/place", {
        params: { path: { kind: of.kind, name: of.name }, query: { camera_pass: of.pass, text } },
      }),
    );
  const shown = String(frame + subject.first);
  const { data: label } = useQuery({
    queryKey: ["place", of.kind, of.name, of.pass, shown],
    queryFn: () => place(shown),
    enabled: !playing,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const field = useRef<HTMLInputElement>(null);
  const apply = async () => {
    // Keys step through frames again.
    if (draft === null) return field.current?.blur();
    try {
      const found = await place(draft);
      playhead.pause();
      playhead.set({ frame: found.frame });
      setDraft(null);
      setWrong("");
      field.current?.blur();
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <span className="relative ml-1 flex items-center gap-1">
      <input
        ref={field}
        className={`input input-xs figures w-20 border border-base-content/30 ${wrong ? "input-error" : ""}`}
        aria-label="Frame"
        aria-invalid={Boolean(wrong)}
        title="A frame's number, seconds such as 2.5s, or a timecode"
        value={draft ?? shown}
        data-draft={draft === null ? undefined : ""}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={() => {
          setDraft(null);
          setWrong("");
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") void apply();
          if (event.key !== "Escape") return;
          setDraft(null);
          setWrong("");
        }}
      />
      <span className="figures quiet min-w-40 whitespace-nowrap " data-testid="place">
        of {subject.count.toLocaleString("en")} ·{" "}
        {label && !playing ? `${label.seconds} s` : `${(frame / subject.fps).toFixed(2)} s`}
        {label?.timecode && !playing && ` · ${label.timecode}`}
      </span>
      {wrong && (
        <span
          role="alert"
          className="absolute bottom-full left-0 z-20 mb-1 w-80 rounded-box border border-error bg-base-100 p-2 shadow"
        >
          {wrong}
        </span>
      )}
    </span>
  );
}

interface ToolProps {
  label: string;
  pressed?: boolean;
  onClick: () => void;
  children: ReactNode;
}

export function Tool({ label, pressed, onClick, children }: ToolProps) {
  return (
    <button
      type="button"
      className={`btn btn-xs btn-square ${pressed ? "btn-primary" : "btn-ghost"}`}
      aria-label={label}
      aria-pressed={pressed}
      title={label}
      onClick={onClick}
    >
      {children}
    </button>
  );
}
