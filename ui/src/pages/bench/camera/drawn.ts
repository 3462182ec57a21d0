import { coordinate } from "../../../parts/spelledNumber";
import type { PathFigures, Point } from "./usePathFigures";

/** One of the two drawings: which axes lie across and up, and where its middle is on the paper. */
export interface Side {
  name: "plan" | "elevation";
  across: number;
  up: number;
  outline: number;
  top: number;
  height: number;
}

export interface Paper {
  width: number;
  scale: number;
  sides: Side[];
  middle: Point;
}

const EDGE = 34;

/** A scale that both drawings share, so that they stand exactly above one another. */
export function paperOf(pathFigures: PathFigures, width: number, height: number): Paper {
  const points: number[][] = [
    ...pathFigures.cameras.flatMap((way) => way.positions),
    ...pathFigures.places,
    ...[-1, 1].map((side) => pathFigures.centre.map((value) => value + side * pathFigures.radius)),
  ];
  const low = [0, 1, 2].map((n) => Math.min(...points.map((point) => point[n])));
  const high = [0, 1, 2].map((n) => Math.max(...points.map((point) => point[n])));
  const span = low.map((value, n) => Math.max(high[n] - value, pathFigures.radius * 0.5, 1e-9));
  const room = height - 2 * EDGE - 20;
  const scale = Math.min((width - 2 * EDGE) / span[0], room / (span[1] + span[2]));
  const plan = span[1] * scale + EDGE + (room - (span[1] + span[2]) * scale) / 2;
  const middle = low.map((value, n) => (value + high[n]) / 2) as Point;
  return {
    width,
    scale,
    middle,
    sides: [
      { name: "plan", across: 0, up: 1, outline: 0, top: 0, height: plan + 10 },
      { name: "elevation", across: 0, up: 2, outline: 1, top: plan + 10, height: height - plan - 10 },
    ],
  };
}

/** A point of the world on the paper, seen from one side. */
export function placed(paper: Paper, side: Side, point: readonly number[]): [number, number] {
  const { scale, middle, width } = paper;
  return [
    width / 2 + (point[side.across] - middle[side.across]) * scale,
    side.top + side.height / 2 - (point[side.up] - middle[side.up]) * scale,
  ];
}

/** By how much a point of the world moves when it is dragged on the paper. */
export function moved(paper: Paper, side: Side, point: readonly number[], dx: number, dy: number): Point {
  const to = [...point];
  to[side.across] = coordinate(to[side.across] + dx / paper.scale);
  to[side.up] = coordinate(to[side.up] - dy / paper.scale);
  return to;
}

export function line(points: [number, number][]): string {
  return points.map(([x, y], n) => `${n ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
}

/** A round number of frames from tick to tick, so that there are about two dozen. */
export function tickStep(frames: number): number {
  const rough = frames / 24;
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1)));
  return [1, 2, 5, 10].map((n) => n * power).find((step) => step >= rough) ?? 1;
}
