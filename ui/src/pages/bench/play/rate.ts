import type { Shot } from "../../../api/client";
import { fraction } from "../../../parts/entries/fraction";

/** Frames a second at which the shot is played. */
export function rateOf(shot: Shot): number {
  return fraction(shot.timing.playback);
}
