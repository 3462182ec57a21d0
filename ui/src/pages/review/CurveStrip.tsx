import { type PointerEvent, useEffect, useRef, useState } from "react";
import { count } from "../../parts/format";
import { useDrag } from "../../parts/hooks/useDrag";
import { useThemeName } from "../../parts/hooks/useThemeName";
import { APART, CURVES, type CurveName, curveOf, drawCurves, figure, RULER, rangeOf, xOf } from "./curves";
import { type Playhead, useFrame, useStretch } from "./playhead";
import type { Figures, Note, PairFigures, Subject } from "./queries";

const HEIGHT = 92;

interface Props {
  playhead: Playhead;
  subject: Subject;
  figures: Figures | undefined;
  /** Of what it is compared with, frame by frame of this one. */
  otherValues: ((name: CurveName) => number[]) | null;
  otherTitle: string;
  /** How far both are apart, where two are compared. */
  pair: PairFigures | undefined;
  onMeasurePair: () => void;
  notes: Note[];
  onMeasure: () => void;
  onStop: () => void;
}

/** A measured curve of all frames; a press goes to a frame. */
export function CurveStrip(props: Props) {
  const { playhead, subject, figures, otherValues, notes, pair } = props;
  useThemeName();
  const [chosen, setChosen] = useState<CurveName | keyof typeof APART>("mean");
  const between = props.pair && chosen in APART ? (chosen as keyof typeof APART) : null;
  const name = (chosen in APART ? "mean" : chosen) as CurveName;
  const [hovered, setHovered] = useState<number | null>(null);
  const { from, to } = useStretch(playhead);
  const [width, setWidth] = useState(800);
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const curve = curveOf(name);
  const values = between ? valuesOf(pair, between) : (figures?.curves?.[name] ?? []);
  const others = between ? [] : (otherValues?.(name) ?? []);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const look = new ResizeObserver(() => setWidth(element.clientWidth));
    look.observe(element);
    return () => look.disconnect();
  }, []);
  useEffect(() => {
    if (!canvas.current) return;
    const lines = [{ values, other: false }];
    if (others.length) lines.push({ values: others, other: true });
    drawCurves(canvas.current, {
      width,
      height: HEIGHT,
      count: subject.count,
      first: subject.first,
      from,
      to,
      lines: lines.filter((line) => line.values.length > 0),
      findings: figures?.findings ?? [],
      notes,
      missing: subject.missing,
    });
  });
  const frameAt = (clientX: number) => {
    const left = box.current?.getBoundingClientRect().left ?? 0;
    const frame = Math.floor(((clientX - left) / Math.max(width, 1)) * subject.count);
    return Math.min(Math.max(frame, 0), subject.count - 1);
  };
  const go = (clientX: number) => {
    playhead.pause();
    playhead.set({ frame: frameAt(clientX) });
  };
  const drag = useDrag<true>({
    start: (event) => {
      if (event.button > 0) return null;
      go(event.clientX);
      return true;
    },
    move: (_, { event }) => go(event.clientX),
  });
  const [low, high] = rangeOf([values, others]);
  return (
    <section aria-label="Figures of all frames" className="px-3 pb-2">
      <div className="mb-1 flex min-h-6 flex-wrap items-center gap-2 text-note">
        <select
          className="select select-xs w-40"
          aria-label="Curve"
          title={curve.hint}
          value={between ?? name}
          onChange={(event) => setChosen(event.target.value as CurveName)}
        >
          {pair &&
            Object.entries(APART).map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          {CURVES.map((one) => (
            <option key={one.name} value={one.name}>
              {one.label}
            </option>
          ))}
        </select>
        {values.length > 0 && (
          <span className="figures quiet" data-testid="range">
            {figure(low, curve.unit)} to {figure(high, curve.unit)}
            {others.length > 0 && ` · dashed: ${props.otherTitle}`}
          </span>
        )}
        <span className="flex-1" />
        {hovered !== null && (
          <span className="figures" data-testid="hovered">
            frame {hovered + subject.first}
            {values.length > 0 && `: ${figure(values[hovered] ?? 0, curve.unit)}`}
            {others.length > 0 &&
              others[hovered] !== undefined &&
              `, dashed ${figure(others[hovered], curve.unit)}`}
          </span>
        )}
        {between ? (
          <Measuring {...props} figures={pair} onMeasure={props.onMeasurePair} onStop={null} />
        ) : (
          <Measuring {...props} />
        )}
      </div>
      <div
        ref={box}
        className="relative cursor-pointer touch-none"
        data-testid="curves"
        {...drag.handlers}
        onPointerMove={(event: PointerEvent) => {
          drag.handlers.onPointerMove(event);
          setHovered(frameAt(event.clientX));
        }}
        onPointerLeave={() => setHovered(null)}
      >
        <canvas
          ref={canvas}
          className="block w-full"
          style={{ height: HEIGHT }}
          role="img"
          aria-label={`${curve.label} of all frames`}
        />
        <Head playhead={playhead} count={subject.count} width={width} />
      </div>
    </section>
  );
}

/** The playhead, which moves without the curve being drawn again. */
function Head({ playhead, count: frames, width }: { playhead: Playhead; count: number; width: number }) {
  const frame = useFrame(playhead);
  return (
    <span
      className="pointer-events-none absolute w-0.5 bg-base-content"
      style={{ left: xOf(frame + 0.5, frames, width) - 1, top: RULER - 5, bottom: 0 }}
    />
  );
}

/** Values of two that are compared, with no numbers before the first frame that both have. */
function valuesOf(pair: PairFigures | undefined, name: keyof typeof APART): number[] {
  const values = pair?.[name];
  return values ? [...Array<number>(pair.first).fill(Number.NaN), ...values] : [];
}

interface Measured {
  subject: Subject;
  figures: Pick<Figures, "state" | "progress" | "message"> | undefined;
  onMeasure: () => void;
  onStop: (() => void) | null;
}

function Measuring({ subject, figures, onMeasure, onStop }: Measured) {
  if (subject.is_data)
    return <span className="quiet">This pass holds numbers: it has no figures of light</span>;
  if (!figures) return <span className="quiet">Loading…</span>;
  const { state, progress, message } = figures;
  if (state === "done") return null;
  if (state === "queued" || state === "running")
    return (
      <span className="flex items-center gap-2" role="status">
        <span className="figures">
          {progress
            ? `Measuring, ${progress.done.toLocaleString("en")} of ${count(progress.count, "frame")}`
            : "Measuring…"}
          {progress?.seconds_left != null && `, ${Math.ceil(progress.seconds_left)} s left`}
        </span>
        {onStop && (
          <button type="button" className="btn btn-xs font-normal" onClick={onStop}>
            Stop
          </button>
        )}
      </span>
    );
  return (
    <span className="flex items-center gap-2">
      {message && <span className="text-error">{message}</span>}
      <button type="button" className="btn btn-xs font-normal" onClick={onMeasure}>
        Measure {count(subject.count, "frame")}
      </button>
    </span>
  );
}
