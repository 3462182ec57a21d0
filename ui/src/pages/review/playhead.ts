import { useSyncExternalStore } from "react";

export type After = "loop" | "stop" | "turn";

/** Where the player is and how it plays: a separate store, so that a frame draws no more than what shows it. */
export interface PlayState {
  frame: number;
  playing: boolean;
  /** 1 forwards, -1 backwards. */
  way: 1 | -1;
  speed: number;
  /** What comes at the end: the beginning, nothing, or the way back. */
  after: After;
  from: number;
  to: number;
  /** Different pictures shown in the last second. */
  achieved: number;
  /** Frames that were left out since playing began. */
  dropped: number;
  /** Width of the small pictures that replace the full ones; 0 for none. */
  standIn: number;
}

export class Playhead {
  private state: PlayState;
  private readonly watching = new Set<() => void>();
  private request = 0;
  private due = 0;
  private shown: number[] = [];

  constructor(
    readonly count: number,
    readonly fps: number,
    /** Whether the picture of a frame can be shown at once. */
    private readonly isThere: (frame: number, standIn: number) => boolean,
  ) {
    this.state = {
      frame: 0,
      playing: false,
      way: 1,
      speed: 1,
      after: "loop",
      from: 0,
      to: count - 1,
      achieved: 0,
      dropped: 0,
      standIn: 0,
    };
  }

  readonly watch = (tell: () => void) => {
    this.watching.add(tell);
    return () => {
      this.watching.delete(tell);
    };
  };

  readonly now = () => this.state;

  set(next: Partial<PlayState>) {
    const frame = Math.min(Math.max(next.frame ?? this.state.frame, 0), this.count - 1);
    this.state = { ...this.state, ...next, frame };
    for (const tell of this.watching) tell();
  }

  /** The frames that come next, the nearest first, as they will be played. */
  ahead(most: number): number[] {
    let { frame, way } = this.state;
    const found = [frame];
    for (let n = 1; n < Math.min(most, this.state.to - this.state.from + 1); n++) {
      const next = this.next(frame, way);
      if (!next) break;
      [frame, way] = next;
      found.push(frame);
    }
    return found;
  }

  play(way: 1 | -1 = 1) {
    const { frame, from, to, after } = this.state;
    let begin = Math.min(Math.max(frame, from), to);
    if (after === "stop" && begin === (way > 0 ? to : from)) begin = way > 0 ? from : to;
    this.shown = [];
    this.set({ playing: true, way, frame: begin, dropped: 0, achieved: 0 });
    this.due = performance.now() + this.frameMs();
    cancelAnimationFrame(this.request);
    this.request = requestAnimationFrame(this.tick);
  }

  pause() {
    cancelAnimationFrame(this.request);
    this.set({ playing: false });
  }

  private frameMs() {
    return 1000 / this.fps / this.state.speed;
  }

  private next(frame: number, way: 1 | -1): [number, 1 | -1] | null {
    const { from, to, after } = this.state;
    const to_ = frame + way;
    if (to_ >= from && to_ <= to) return [to_, way];
    if (after === "stop" || from === to) return from === to && after !== "stop" ? [from, way] : null;
    return after === "loop" ? [way > 0 ? from : to, way] : [frame - way, way > 0 ? -1 : 1];
  }

  private readonly tick = () => {
    if (!this.state.playing) return;
    const time = performance.now();
    if (time >= this.due - 4) this.advance(time);
    if (this.state.playing) this.request = requestAnimationFrame(this.tick);
  };

  /** The next frame, once it is due and there. One that is not there is waited for: nothing is left out unseen. */
  private advance(time: number) {
    let { frame, way, dropped } = this.state;
    const next = this.next(frame, way);
    if (!next) return this.pause();
    if (!this.isThere(next[0], this.state.standIn)) {
      this.due = Math.max(this.due, time);
      this.count_(time);
      return;
    }
    [frame, way] = next;
    this.due += this.frameMs();
    // A screen that is slower than the rate shows every second frame, and counts the others.
    while (this.due < time - this.frameMs()) {
      const skipped = this.next(frame, way);
      if (!skipped || !this.isThere(skipped[0], this.state.standIn)) break;
      [frame, way] = skipped;
      this.due += this.frameMs();
      dropped += 1;
    }
    if (this.due < time) this.due = time + this.frameMs();
    this.shown.push(time);
    this.set({ frame, way, dropped, achieved: this.rate(time) });
  }

  private count_(time: number) {
    const achieved = this.rate(time);
    if (Math.abs(achieved - this.state.achieved) > 0.5) this.set({ achieved });
  }

  /** Pictures a second, over the last one. */
  private rate(time: number): number {
    this.shown = this.shown.filter((then) => time - then < 1000);
    const [first] = this.shown;
    const last = this.shown.at(-1);
    if (first === undefined || last === undefined || this.shown.length < 3) return 0;
    return (1000 * (this.shown.length - 1)) / (last - first);
  }
}

export const usePlayhead = (playhead: Playhead) => useSyncExternalStore(playhead.watch, playhead.now);

/** The frame alone: a change of anything else draws nothing. */
export const useFrame = (playhead: Playhead) =>
  useSyncExternalStore(playhead.watch, () => playhead.now().frame);

/** The stretch that is played. */
export function useStretch(playhead: Playhead): { from: number; to: number } {
  const text = useSyncExternalStore(playhead.watch, () => `${playhead.now().from} ${playhead.now().to}`);
  const [from, to] = text.split(" ").map(Number);
  return { from, to };
}
