import { type Playhead, useFrame } from "./playhead";
import type { Mark, Note } from "./queries";

interface Props {
  playhead: Playhead;
  notes: Note[];
  /** A mark that is being drawn. */
  drawn: Mark | null;
  at: { left: number; top: number; width: number; height: number };
}

/** Marks of the notes on the frame at the playhead, over the picture. */
export function MarkLayer({ playhead, notes, drawn, at }: Props) {
  const frame = useFrame(playhead);
  const shown = notes.filter((note) => note.mark && note.first <= frame && frame <= note.last);
  const marks = shown.flatMap((note) =>
    note.mark ? [{ key: note.id, mark: note.mark, done: !note.is_open }] : [],
  );
  if (drawn) marks.push({ key: 0, mark: drawn, done: false });
  return (
    <svg
      className="pointer-events-none absolute overflow-visible"
      style={{ left: at.left, top: at.top }}
      width={at.width}
      height={at.height}
      aria-hidden
    >
      {marks.map(({ key, mark, done }) => (
        <g key={key} opacity={done ? 0.45 : 1}>
          <Shape mark={mark} width={at.width} height={at.height} stroke="#fff" wide={4.5} />
          <Shape mark={mark} width={at.width} height={at.height} stroke="#d1600a" wide={2.25} />
        </g>
      ))}
    </svg>
  );
}

interface Drawn {
  mark: Mark;
  width: number;
  height: number;
  stroke: string;
  wide: number;
}

function Shape({ mark, width, height, stroke, wide }: Drawn) {
  const [x, y, toX, toY] = [
    mark.x * width,
    mark.y * height,
    (mark.to_x ?? 0) * width,
    (mark.to_y ?? 0) * height,
  ];
  const line = { stroke, strokeWidth: wide, fill: "none" };
  if (mark.shape === "dot") return <circle cx={x} cy={y} r={9} {...line} />;
  if (mark.shape === "box")
    return (
      <rect
        x={Math.min(x, toX)}
        y={Math.min(y, toY)}
        width={Math.abs(toX - x)}
        height={Math.abs(toY - y)}
        {...line}
      />
    );
  const turn = Math.atan2(toY - y, toX - x);
  const wing = (by: number) => `${toX - 13 * Math.cos(turn + by)} ${toY - 13 * Math.sin(turn + by)}`;
  return <path d={`M${x} ${y}L${toX} ${toY}M${wing(0.5)}L${toX} ${toY}L${wing(-0.5)}`} {...line} />;
}
