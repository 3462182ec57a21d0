import type { Shot } from "../../../api/client";
import type { Overlay } from "./overlays";
import { type PathFigures, rowAt } from "./usePathFigures";

interface Props {
  shot: Shot;
  overlays: Overlay[];
  pathFigures: PathFigures | undefined;
  camera: number;
  frame: number;
}

/** Guides over the picture, in a box of the same shape; never captured. */
export function Overlays({ shot, overlays, pathFigures, camera, frame }: Props) {
  const { width = 16, height = 9 } = shot.document.picture;
  const on = (name: Overlay) => overlays.includes(name);
  const x = (share: number) => share * width;
  const y = (share: number) => share * height;
  const masks = overlays.map(Number).filter((aspect) => aspect > 0);
  const horizon = on("horizon") && pathFigures ? horizonOf(pathFigures, camera, frame, width / height) : null;
  return (
    <svg
      className="pointer-events-none absolute inset-0 h-full w-full"
      viewBox={`0 0 ${width} ${height}`}
      data-testid="overlays"
      aria-hidden="true"
    >
      {masks.map((aspect) => {
        const wide = Math.min(width, height * aspect);
        const high = wide / aspect;
        const [left, top] = [(width - wide) / 2, (height - high) / 2];
        const hole = `M${left} ${top}h${wide}v${high}h${-wide}z`;
        return (
          <path
            key={aspect}
            d={`M0 0h${width}v${height}h${-width}z${hole}`}
            fillRule="evenodd"
            opacity={0.55}
          />
        );
      })}
      {["black", "white"].map((ink, n) => (
        <g
          key={ink}
          fill="none"
          stroke={ink}
          strokeWidth={n === 0 ? 3 : 1.2}
          opacity={n === 0 ? 0.4 : 0.9}
          style={{ vectorEffect: "non-scaling-stroke" }}
        >
          {on("thirds") &&
            [1 / 3, 2 / 3].map((share) => (
              <path
                key={share}
                vectorEffect="non-scaling-stroke"
                d={`M${x(share)} 0V${height}M0 ${y(share)}H${width}`}
              />
            ))}
          {on("centre") && (
            <path
              vectorEffect="non-scaling-stroke"
              d={`M${x(0.5)} ${y(0.46)}V${y(0.54)}M${x(0.5) - y(0.04)} ${y(0.5)}h${y(0.08)}`}
            />
          )}
          {on("safe") &&
            [0.05, 0.1].map((edge) => (
              <rect
                key={edge}
                vectorEffect="non-scaling-stroke"
                x={x(edge)}
                y={y(edge)}
                width={x(1 - 2 * edge)}
                height={y(1 - 2 * edge)}
              />
            ))}
          {horizon && (
            <path
              vectorEffect="non-scaling-stroke"
              strokeDasharray="8 5"
              d={`M0 ${y(horizon[0])}L${width} ${y(horizon[1])}`}
            />
          )}
        </g>
      ))}
    </svg>
  );
}

type Three = number[];
const dot = (a: Three, b: Three) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Three, b: Three) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: Three) => a.map((value) => value / Math.hypot(...a));

/** Heights of the horizon at the left and the right edge, as shares from the top; null where it is out of sight. */
function horizonOf(
  pathFigures: PathFigures,
  camera: number,
  frame: number,
  aspect: number,
): [number, number] | null {
  const way = pathFigures.cameras[camera];
  if (!way) return null;
  const row = rowAt(way, frame);
  const forward = unit(way.looks[row].map((value, n) => value - way.positions[row][n]));
  const right = unit(cross(forward, way.ups[row]));
  const up = cross(right, forward);
  const high = Math.tan((way.views_high_deg[row] * Math.PI) / 360);
  // A direction is on the horizon where it has no height: forward.z + x·right.z + y·up.z = 0.
  const at = (side: number) => -(forward[2] + side * high * aspect * right[2]) / (up[2] * high);
  if (Math.abs(up[2]) < 1e-6 || !Number.isFinite(dot(forward, forward))) return null;
  const heights: [number, number] = [0.5 - at(-1) / 2, 0.5 - at(1) / 2];
  return Math.max(...heights) < 0 || Math.min(...heights) > 1 ? null : heights;
}
