/** The position of a picture in its well: fitted, or at a scale with a point of it in the middle. */
export interface Zoom {
  /** Screen pixels a pixel of the picture; 0 fits the whole of it. */
  scale: number;
  /** The point in the middle of the well, as shares of the picture. */
  x: number;
  y: number;
}

export const FIT: Zoom = { scale: 0, x: 0.5, y: 0.5 };
const LEAST = 0.02;
const MOST = 64;

export interface Box {
  width: number;
  height: number;
}

/** The scale at which the whole picture is in sight. */
export function fitScale(picture: Box, well: Box): number {
  return Math.max(Math.min(well.width / picture.width, well.height / picture.height), LEAST);
}

/** The rectangle of the picture in the well, in screen pixels. */
export function placed(zoom: Zoom, picture: Box, well: Box) {
  const scale = zoom.scale || fitScale(picture, well);
  const { x, y } = zoom.scale ? zoom : FIT;
  const [width, height] = [picture.width * scale, picture.height * scale];
  return { scale, left: well.width / 2 - x * width, top: well.height / 2 - y * height, width, height };
}

/** Zoomed by a factor, with a point of the well staying where it is. */
export function zoomed(
  zoom: Zoom,
  factor: number,
  at: { x: number; y: number },
  picture: Box,
  well: Box,
): Zoom {
  const now = placed(zoom, picture, well);
  const scale = Math.min(Math.max(now.scale * factor, LEAST), MOST);
  const [x, y] = [(at.x - now.left) / now.width, (at.y - now.top) / now.height];
  return {
    scale,
    x: x + (well.width / 2 - at.x) / (picture.width * scale),
    y: y + (well.height / 2 - at.y) / (picture.height * scale),
  };
}

/** Moved by screen pixels. */
export function panned(zoom: Zoom, dx: number, dy: number, picture: Box, well: Box): Zoom {
  const now = placed(zoom, picture, well);
  const from = zoom.scale ? zoom : { ...FIT, scale: now.scale };
  return { scale: now.scale, x: from.x - dx / now.width, y: from.y - dy / now.height };
}

export type Behind = "checks" | "black" | "white" | "grey";
export type Channel = "all" | "red" | "green" | "blue" | "alpha";
export type Mode = "beside" | "split" | "flip" | "difference";

export interface Look {
  zoom: Zoom;
  behind: Behind;
  channel: Channel;
  stops: number;
  mode: Mode;
  /** Where the line lies that divides two pictures, as a share of the well's width. */
  line: number;
  /** Whether the second one of two is in sight, where one covers the other. */
  flipped: boolean;
  /** By how much a difference is amplified. */
  gain: number;
}

export const FIRST_LOOK: Look = {
  zoom: FIT,
  behind: "checks",
  channel: "all",
  stops: 0,
  mode: "split",
  line: 0.5,
  flipped: false,
  gain: 4,
};
