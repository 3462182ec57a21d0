/** The stretch of frames that the strip shows: from the left edge of one to the right edge of another. */
export interface View {
  from: number;
  to: number;
}

/** So few frames may fill the strip. */
const FEWEST = 4;

export const whole = (frames: number): View => ({ from: 0, to: frames });

/** Where in the strip a frame's left edge stands; half a frame on is its middle. */
export const xOf = (at: number, view: View, width: number) =>
  ((at - view.from) / (view.to - view.from)) * width;

/** The place in frames under a point of the strip. */
export const placeAt = (x: number, view: View, width: number) =>
  view.from + (x / width) * (view.to - view.from);

/** Zoomed by a factor, with one place staying where it is. */
export function zoomed(view: View, frames: number, factor: number, at: number): View {
  const span = Math.min(Math.max((view.to - view.from) / factor, Math.min(FEWEST, frames)), frames);
  const share = (at - view.from) / (view.to - view.from);
  return inside({ from: at - share * span, to: at + (1 - share) * span }, frames);
}

export const panned = (view: View, frames: number, by: number) =>
  inside({ from: view.from + by, to: view.to + by }, frames);

/** Moved just so far that a frame is in sight. */
export function holding(view: View, frames: number, frame: number): View {
  if (frame < view.from) return panned(view, frames, frame - view.from);
  if (frame + 1 > view.to) return panned(view, frames, frame + 1 - view.to);
  return inside(view, frames);
}

function inside(view: View, frames: number): View {
  const span = Math.min(view.to - view.from, frames);
  const from = Math.min(Math.max(view.from, 0), frames - span);
  return { from, to: from + span };
}
