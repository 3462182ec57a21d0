import { useRef } from "react";
import type { Schemas } from "../../../api/client";
import { targetName } from "../../../api/vocabulary";
import { short } from "../../../parts/format";
import type { Drivable, Lane } from "../lanes";
import { Handles, KeyMark } from "./KeyMarks";
import { keyboardOn } from "./keyboardOn";
import { type KeyAt, sameKey } from "./keys";
import { pathOf, pointsOf, ROW, type Sight, scaleOf, stretchOf } from "./rows";
import { useKeyDrag } from "./useKeyDrag";

export interface RowsProps extends Sight {
  lanes: Lane[];
  curves: Schemas["LaneCurve"][];
  chosen: KeyAt[];
  onChoose: (keys: KeyAt[]) => void;
  drivables: Drivable[];
  /** Shows lanes that are not saved, while they are dragged; null shows the saved ones. */
  onDraft: (lanes: Lane[] | null) => void;
  onSave: (lanes: Lane[], what: string) => void;
  onFrame: (at: number) => void;
}

/** Every lane as a curve with its keys: dragged in time and value, several at once, or moved by keys. */
export function LaneRows(props: RowsProps) {
  const { shot, lanes, curves, view, width, chosen } = props;
  const box = useRef<SVGSVGElement>(null);
  const scales = lanes.map((lane, row) => scaleOf(shot, lane, row));
  const points = pointsOf(props, lanes, scales);
  const { area, pointer, onDoubleClick } = useKeyDrag(props, box, scales, points);
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing has no fieldset
    <svg
      ref={box}
      width={width}
      height={ROW * lanes.length}
      role="group"
      aria-label="Lanes"
      data-testid="lane-rows"
      className="block touch-none"
      {...pointer}
      onDoubleClick={onDoubleClick}
      onKeyDown={keyboardOn(props)}
    >
      {lanes.map((lane, row) => (
        <g key={lane.drive}>
          <line x1={0} x2={width} y1={ROW * row} y2={ROW * row} className="stroke-base-300" />
          <path
            d={pathOf(
              curves.find((one) => one.drive === lane.drive),
              view,
              width,
              scales[row].y,
            )}
            className="fill-none stroke-primary"
            strokeWidth={1.75}
          />
          <text
            x={6}
            y={ROW * row + 14}
            className="pointer-events-none fill-base-content text-note font-semibold"
          >
            {targetName(lane.drive)}
            <tspan className="font-normal" dx={6} opacity={0.75}>
              {lane.follows != null
                ? `follows ${targetName(lane.follows)}`
                : lane.formula != null
                  ? lane.formula
                  : `${short(scales[row].low)} to ${short(scales[row].high)}`}
            </tspan>
          </text>
          {lane.keys.map((_, n) => (
            <Handles
              // biome-ignore lint/suspicious/noArrayIndexKey: a key that moves keeps its place in the lane
              key={n}
              lane={lane}
              number={n}
              shown={chosen.some((one) => sameKey(one, { drive: lane.drive, key: n }))}
              stretch={stretchOf(shot, lane, n, view, width, scales[row])}
            />
          ))}
        </g>
      ))}
      {points.map((point) => {
        const lane = lanes.find((one) => one.drive === point.drive) as Lane;
        return (
          <KeyMark
            key={`${point.drive} ${point.key}`}
            frame={point.frame}
            x={point.x}
            y={point.y}
            lane={lane}
            number={point.key}
            chosen={chosen.some((one) => sameKey(one, point))}
          />
        );
      })}
      {area && (
        <rect
          x={area.x}
          y={area.y}
          width={area.wide}
          height={area.high}
          className="fill-primary/10 stroke-primary"
          strokeDasharray="3 2"
        />
      )}
    </svg>
  );
}
