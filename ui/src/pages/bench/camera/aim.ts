import { bounded } from "../../../api/vocabulary";
import { coordinate } from "../../../parts/spelledNumber";
import type { PathFigures, Point } from "./usePathFigures";
import { rowAt } from "./usePathFigures";

/** The position of a camera relative to its subject. */
export interface Aim {
  start_deg: number;
  elevation_deg: number;
  fill: number;
  centre?: number[] | "centroid" | null;
  roll_deg?: number;
  /** In the source's units; given in place of the fill. */
  distance?: number | null;
}

/** The aim turned by degrees: to the right, and upward. */
export function turned(from: Aim, right: number, up: number): Aim {
  return {
    ...from,
    start_deg: round(wrap(from.start_deg - right)),
    elevation_deg: round(bounded("rig:elevation", from.elevation_deg + up)),
  };
}

export function nearer(from: Aim, by: number): Aim {
  if (from.distance != null) return { ...from, distance: Number((from.distance / by).toPrecision(4)) };
  return { ...from, fill: filling(from.fill * by) };
}

export function rolled(from: Aim, by: number): Aim {
  return { ...from, roll_deg: round(wrap((from.roll_deg ?? 0) + by)) };
}

/** The aim moved sideways and up by shares of the frame's height, along the picture's plane. */
export function panned(from: Aim, pathFigures: PathFigures, highDeg: number, right: number, up: number): Aim {
  const middle = (Array.isArray(from.centre) ? from.centre : pathFigures.centre) as Point;
  const half = (highDeg * Math.PI) / 360;
  const distance = from.distance ?? pathFigures.radius / Math.sin(Math.atan(from.fill * Math.tan(half)));
  const high = 2 * distance * Math.tan(half);
  const [a, e] = [from.start_deg, from.elevation_deg].map((degrees) => (degrees * Math.PI) / 180);
  const sideways: Point = [Math.cos(a), Math.sin(a), 0];
  const upright: Point = [-Math.sin(e) * Math.sin(a), Math.sin(e) * Math.cos(a), Math.cos(e)];
  const centre = middle.map((value, n) => coordinate(value + high * (right * sideways[n] + up * upright[n])));
  return { ...from, centre };
}

/** The aim, in a frame, of a camera that keys or views lead. */
export function aimAt(pathFigures: PathFigures, camera: number, frame: number, highDeg: number): Aim | null {
  const way = pathFigures.cameras[camera];
  if (!way) return null;
  const row = rowAt(way, frame);
  const [position, look] = [way.positions[row], way.looks[row]];
  const away = position.map((value, n) => value - look[n]);
  const flat = Math.hypot(away[0], away[1]);
  const distance = Math.max(Math.hypot(flat, away[2]), pathFigures.radius * 1.0001);
  const fill = Math.tan(Math.asin(pathFigures.radius / distance)) / Math.tan((highDeg * Math.PI) / 360);
  const degrees = 180 / Math.PI;
  return {
    start_deg: round(wrap(Math.atan2(away[0], -away[1]) * degrees)),
    elevation_deg: round(Math.atan2(away[2], flat) * degrees),
    fill: filling(fill),
    centre: look.map(coordinate),
  };
}

const filling = (fill: number) => Number(bounded("rig:fill", fill).toFixed(3));
const round = (degrees: number) => Number(degrees.toFixed(2));
const wrap = (degrees: number) => ((((degrees + 180) % 360) + 360) % 360) - 180;
