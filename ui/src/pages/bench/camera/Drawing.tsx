import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Shot } from "../../../api/client";
import { short } from "../../../parts/format";
import { ARROWS } from "../../../parts/hooks/arrows";
import { useDrag } from "../../../parts/hooks/useDrag";
import { line, moved, type Paper, paperOf, placed, type Side, tickStep } from "./drawn";
import { type CameraPath, type PathFigures, type Point, rowAt } from "./usePathFigures";
import { useRoom } from "./useRoom";

const REACH = 14;

interface Props {
  shot: Shot;
  pathFigures: PathFigures;
  camera: number;
  frame: number;
  onFrame: (frame: number) => void;
  /** Moves a key or a view; `done` saves it. */
  onPlace: (number: number, to: Point, done: boolean) => void;
}

/** A key or a view while it is dragged, on the paper that it was taken up on. */
interface Held {
  n: number;
  side: Side;
  from: Point;
  paper: Paper;
}

/** The cameras' ways in plan and elevation, as an architect draws them. */
export function Drawing({ shot, pathFigures, camera, frame, onFrame, onPlace }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const room = useRoom(holder);
  const [held, setHeld] = useState<Paper | null>(null);
  const way = pathFigures.cameras[camera] ?? pathFigures.cameras[0];
  // While something is dragged the paper keeps its scale, or it would run away under the hand.
  const paper = held ?? (room && paperOf(pathFigures, room.width, room.height));
  const rests = shot.document.camera.rig.kind === "stops";

  const pressed = (event: PointerEvent): Held | null => {
    const mark = (event.target as Element).closest<SVGElement>("[data-place]");
    if (!paper) return null;
    if (!mark) {
      pick(event, paper);
      return null;
    }
    setHeld(paper);
    const [n, side] = [Number(mark.dataset.place), paper.sides[Number(mark.dataset.side)]];
    return { n, side, from: pathFigures.places[n], paper };
  };
  const drag = useDrag<Held>({
    start: pressed,
    move: ({ n, side, from, paper }, { dx, dy }) => onPlace(n, moved(paper, side, from, dx, dy), false),
    end: ({ n, side, from, paper }, { dx, dy, moved: far }) => {
      setHeld(null);
      if (far) onPlace(n, moved(paper, side, from, dx, dy), true);
      else onFrame(pathFigures.stops[n] ?? frame);
    },
  });
  /** Goes to the frame of the path that is pressed. */
  const pick = (event: PointerEvent, paper: Paper) => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = [event.clientX - box.left, event.clientY - box.top];
    const side = paper.sides[at[1] < paper.sides[1].top ? 0 : 1];
    const apart = way.positions.map((point) => {
      const [x, y] = placed(paper, side, point);
      return Math.hypot(x - at[0], y - at[1]);
    });
    const nearest = apart.indexOf(Math.min(...apart));
    if (apart[nearest] < REACH) onFrame(way.frames[nearest]);
  };
  const onKey = (event: KeyboardEvent, n: number, side: Side) => {
    const step = ARROWS[event.key];
    if (!step || !paper) return;
    event.preventDefault();
    const by = event.shiftKey ? 20 : 4;
    onPlace(n, moved(paper, side, pathFigures.places[n], step[0] * by, step[1] * by), true);
  };
  return (
    <section
      className="flex min-w-0 flex-1 flex-col border-l rule bg-base-100"
      aria-label="Plan and elevation"
      data-testid="drawing"
    >
      <div ref={holder} className="relative min-h-0 flex-1 overflow-hidden">
        {paper && room && (
          <svg
            width={room.width}
            height={room.height}
            className="absolute inset-0 touch-none select-none"
            {...drag.handlers}
          >
            <title>Plan and elevation</title>
            {paper.sides.map((side) => (
              <g key={side.name}>
                {side.top > 0 && <path d={`M0 ${side.top}H${room.width}`} className="stroke-base-300" />}
                <text
                  x={side.top > 0 ? room.width - 8 : 8}
                  y={side.top > 0 ? side.top + side.height - 10 : 16}
                  textAnchor={side.top > 0 ? "end" : "start"}
                  className="fill-base-content text-note opacity-75"
                >
                  {side.name === "plan" ? "plan, the front below" : "elevation, from the front"}
                </text>
                <Outline pathFigures={pathFigures} paper={paper} side={side} />
                {pathFigures.cameras.map((other) => (
                  <PathLine key={other.name} way={other} paper={paper} side={side} own={other === way} />
                ))}
                <Ticks way={way} paper={paper} side={side} frames={shot.timing.frames} />
                {pathFigures.cameras.map((other) => (
                  <CameraNow
                    key={other.name}
                    {...{ paper, side, frame }}
                    way={other}
                    own={other === way}
                    named={pathFigures.cameras.length > 1}
                  />
                ))}
                {pathFigures.places.map((place, n) => {
                  const [x, y] = placed(paper, side, place);
                  return (
                    // biome-ignore lint/a11y/useSemanticElements: a mark of a drawing
                    <g
                      // biome-ignore lint/suspicious/noArrayIndexKey: a place that moves keeps its mark
                      key={n}
                      role="button"
                      tabIndex={0}
                      aria-label={`${rests ? "Stop" : "Key"} ${n + 1} in the ${side.name}: arrow keys move it`}
                      transform={`translate(${x} ${y})`}
                      className="cursor-move fill-primary"
                      data-place={n}
                      data-side={paper.sides.indexOf(side)}
                      onKeyDown={(event) => onKey(event, n, side)}
                    >
                      {rests ? <rect x={-8} y={-8} width={16} height={16} rx={2} /> : <circle r={8} />}
                      <text
                        textAnchor="middle"
                        y={4}
                        className="pointer-events-none fill-primary-content text-mark"
                      >
                        {n + 1}
                      </text>
                    </g>
                  );
                })}
              </g>
            ))}
            <ScaleBar paper={paper} bottom={room.height - 10} />
          </svg>
        )}
      </div>
      <dl className="figures flex flex-wrap gap-x-4 border-t rule px-2 py-0.5 text-note leading-snug">
        {pathFigures.facts.map(({ name, value }) => (
          <div key={name} className="whitespace-nowrap">
            <dt className="quiet mr-1 inline font-sans">{name}</dt>
            <dd className="inline">{value}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

interface PartProps {
  paper: Paper;
  side: Side;
}

function Outline({ pathFigures, paper, side }: PartProps & { pathFigures: PathFigures }) {
  const outline = pathFigures.outlines[side.outline] ?? [];
  const points = outline.map(([across, up]) => {
    const point = [0, 0, 0];
    point[side.across] = across;
    point[side.up] = up;
    return placed(paper, side, point);
  });
  if (!points.length) return null;
  return <path d={`${line(points)}Z`} className="fill-base-300 stroke-base-content" strokeOpacity={0.5} />;
}

function PathLine({ way, paper, side, own }: PartProps & { way: CameraPath; own: boolean }) {
  const points = way.positions.map((point) => placed(paper, side, point));
  return (
    <path
      d={line(points)}
      fill="none"
      className={own ? "stroke-primary" : "stroke-base-content"}
      strokeWidth={own ? 1.75 : 1}
      strokeDasharray={own ? undefined : "3 3"}
    />
  );
}

/** Short strokes across the way: where they lie close, the camera is slow. */
function Ticks({ way, paper, side, frames }: PartProps & { way: CameraPath; frames: number }) {
  const step = tickStep(frames);
  const strokes: [number, number][][] = [];
  way.frames.forEach((frame, n) => {
    if (n === 0 || Math.floor(frame / step) === Math.floor(way.frames[n - 1] / step)) return;
    const [x, y] = placed(paper, side, way.positions[n]);
    const [a, b] = placed(paper, side, way.positions[n - 1]);
    const length = Math.hypot(x - a, y - b);
    if (length < 0.05) return;
    const [across, up] = [(-(y - b) / length) * 4, ((x - a) / length) * 4];
    strokes.push([
      [x - across, y - up],
      [x + across, y + up],
    ]);
  });
  return <path d={strokes.map(line).join("")} className="stroke-primary" strokeWidth={1} />;
}

/** The camera's position in the frame, with its field of view. */
function CameraNow({
  way,
  paper,
  side,
  frame,
  own,
  named,
}: PartProps & { way: CameraPath; frame: number; own: boolean; named: boolean }) {
  const row = rowAt(way, frame);
  const [x, y] = placed(paper, side, way.positions[row]);
  const [lookX, lookY] = placed(paper, side, way.looks[row]);
  const apart = Math.hypot(lookX - x, lookY - y);
  const half = ((side.name === "plan" ? way.views_wide_deg : way.views_high_deg)[row] * Math.PI) / 360;
  const heading = Math.atan2(lookY - y, lookX - x);
  const reach = Math.max(apart, 24);
  const ends = [-half, half].map((turn): [number, number] => [
    x + reach * Math.cos(heading + turn),
    y + reach * Math.sin(heading + turn),
  ]);
  return (
    <g className={own ? "fill-primary stroke-primary" : "fill-base-content stroke-base-content"}>
      {apart > 2 && (
        <path d={`${line([ends[0], [x, y], ends[1]])}`} fillOpacity={own ? 0.12 : 0.05} strokeOpacity={0.6} />
      )}
      <circle cx={x} cy={y} r={own ? 4 : 3} />
      {named && (
        <text x={x + 7} y={y - 6} className="fill-base-content stroke-none text-mark">
          {way.name}
        </text>
      )}
    </g>
  );
}

/** A length of the source's units. */
function ScaleBar({ paper, bottom }: { paper: Paper; bottom: number }) {
  const rough = 90 / paper.scale;
  const power = 10 ** Math.floor(Math.log10(rough));
  const length = [5, 2, 1].map((n) => n * power).find((n) => n <= rough) ?? power;
  return (
    <g className="fill-base-content stroke-base-content">
      <path d={`M8 ${bottom - 4}v4h${length * paper.scale}v-4`} fill="none" />
      <text x={14 + length * paper.scale} y={bottom} className="figures stroke-none text-mark">
        {short(length, 6)}
      </text>
    </g>
  );
}
