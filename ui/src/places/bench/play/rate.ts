import type { Shot } from "../../../api/client";

/** Frames a second at which the shot is played. */
export function rateOf(shot: Shot): number {
  const [over, under = "1"] = shot.reckoning.playback.split("/");
  return Number(over) / Number(under);
}
