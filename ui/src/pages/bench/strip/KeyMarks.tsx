import { targetName } from "../../../api/vocabulary";
import { short } from "../../../parts/format";
import { easingOf, heightOf, type Lane } from "../lanes";
import { handlesOut } from "./keys";
import type { Span } from "./rows";

interface MarkProps {
  lane: Lane;
  number: number;
  frame: number;
  x: number;
  y: number;
  chosen: boolean;
}

/** A key: round, or square where the value is held until the next. */
export function KeyMark({ lane, number, frame, x, y, chosen }: MarkProps) {
  const key = lane.keys[number];
  const label = `${targetName(lane.drive)}, key ${number + 1} of ${lane.keys.length}: frame ${short(frame, 2)}, ${short(heightOf(key), 4)}`;
  const look = `stroke-primary ${chosen ? "fill-primary" : "fill-base-100"}`;
  return (
    // biome-ignore lint/a11y/useSemanticElements: SVG cannot contain a button
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      aria-pressed={chosen}
      data-drive={lane.drive}
      data-key={number}
      className="cursor-move outline-offset-2"
    >
      <title>{label}</title>
      <circle cx={x} cy={y} r={10} fill="transparent" />
      {easingOf(key, lane) === "hold" ? (
        <rect x={x - 4.5} y={y - 4.5} width={9} height={9} strokeWidth={2} className={look} />
      ) : (
        <circle cx={x} cy={y} r={5} strokeWidth={2} className={look} />
      )}
    </g>
  );
}

/** The two handles of the easing out of a key that is chosen. */
export function Handles({
  lane,
  number,
  shown,
  stretch,
}: {
  lane: Lane;
  number: number;
  shown: boolean;
  stretch: Span | null;
}) {
  const handles = shown ? handlesOut(lane, number) : null;
  if (!handles || !stretch) return null;
  const { x1, y1, x2, y2 } = stretch;
  const ends = [
    { n: "1", x: x1 + handles[0] * (x2 - x1), y: y1 + handles[1] * (y2 - y1), from: [x1, y1] },
    { n: "2", x: x1 + handles[2] * (x2 - x1), y: y1 + handles[3] * (y2 - y1), from: [x2, y2] },
  ];
  return ends.map((end) => (
    <g key={end.n}>
      <line
        x1={end.from[0]}
        y1={end.from[1]}
        x2={end.x}
        y2={end.y}
        className="stroke-base-content"
        opacity={0.6}
      />
      {/* biome-ignore lint/a11y/useSemanticElements: SVG cannot contain a button */}
      <g
        role="button"
        tabIndex={0}
        aria-label={`${targetName(lane.drive)}, handle ${end.n} out of key ${number + 1}`}
        data-handle={end.n}
        data-drive={lane.drive}
        data-of={number}
        className="cursor-grab"
      >
        <circle cx={end.x} cy={end.y} r={9} fill="transparent" />
        <path
          d={`M${end.x} ${end.y - 4.5}l4.5 4.5l-4.5 4.5l-4.5 -4.5z`}
          className="fill-base-100 stroke-base-content"
          strokeWidth={1.5}
        />
      </g>
    </g>
  ));
}
