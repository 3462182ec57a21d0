import { useEffect, useMemo } from "react";
import { FrameStore, mostDecoded, type Wanted } from "./frameStore";
import type { Playhead } from "./playhead";
import { frameAddress, type Of, type Subject } from "./queries";

/** Width of the small pictures that are shown while full ones cannot keep up. */
export const STAND_IN = 960;
/** Frames on the way on which keys step, and those behind. */
const NEXT = 20;
const BEHIND = 6;
const AHEAD = 40;

/** Pictures of one subject, and who waits for them. */
export interface Feed {
  store: FrameStore;
  of: Of;
  subject: Subject;
  /** The frame of this subject that goes with one of the playhead; null where there is none. */
  frameAt: (frame: number) => number | null;
  watch: (tell: () => void) => () => void;
  /** The best picture of a frame that is there. */
  best: (frame: number, standIn: number) => ImageBitmap | undefined;
}

/** Pictures of a subject at an exposure; `frameAt` must stay the same while nothing of it changes. */
export function useFeed(
  of: Of,
  subject: Subject | undefined,
  stops: number,
  frameAt: (frame: number) => number | null,
): Feed | null {
  const { kind, name, pass } = of;
  const feed = useMemo(() => {
    if (!subject) return null;
    const watching = new Set<() => void>();
    const own = { kind, name, pass };
    const address = (frame: number, wide: number) => frameAddress(own, subject.content, frame, wide, stops);
    const store = new FrameStore(address, () => {
      for (const tell of watching) tell();
    });
    return {
      store,
      of: own,
      subject,
      frameAt,
      watch: (tell: () => void) => {
        watching.add(tell);
        return () => {
          watching.delete(tell);
        };
      },
      best: (frame: number, standIn: number) =>
        // While it plays small, full ones in between would be seen as a change.
        (standIn ? store.at({ frame, wide: standIn }) : undefined) ?? store.at({ frame, wide: 0 }),
    };
  }, [kind, name, pass, subject, stops, frameAt]);
  useEffect(() => () => feed?.store.close(), [feed]);
  return feed;
}

/** Whether the picture of a frame can be shown at once, or never. */
export function isThere(feed: Feed, frame: number, standIn: number): boolean {
  const own = feed.frameAt(frame);
  if (own === null) return true;
  return feed.best(own, standIn) !== undefined || feed.store.trouble(own) !== "";
}

/** Lets pictures be fetched ahead of the playhead, in full where these can be kept. */
export function useAhead(playhead: Playhead, feed: Feed | null, other: Feed | null) {
  useEffect(() => {
    const there = [feed, other].filter((one) => one !== null);
    let last = "";
    let before = playhead.now().frame;
    let stepped = 1;
    const look = () => {
      const { frame, playing, from, to, speed, after, way } = playhead.now();
      const standIn =
        playing && there.some((feed) => needsStandIn(feed, to - from + 1, there.length)) ? STAND_IN : 0;
      const mark = [frame, playing, from, to, speed, after, way, standIn].join();
      if (mark === last) return;
      last = mark;
      if (frame !== before) stepped = frame > before ? 1 : -1;
      before = frame;
      if (standIn !== playhead.now().standIn) playhead.set({ standIn });
      for (const feed of there)
        feed.store.want(wantedOf(playhead, feed, playing, standIn, stepped), feed.frameAt(frame) ?? 0);
    };
    look();
    return playhead.watch(look);
  }, [playhead, feed, other]);
}

function needsStandIn({ subject }: Feed, frames: number, feeds: number): boolean {
  return subject.width > STAND_IN && frames * feeds > mostDecoded(subject.width, subject.height);
}

function wantedOf(
  playhead: Playhead,
  feed: Feed,
  playing: boolean,
  standIn: number,
  stepped: number,
): Wanted[] {
  const { frame } = playhead.now();
  const frames = playing ? playhead.ahead(AHEAD) : around(frame, stepped, playhead.count);
  const wide = standIn < feed.subject.width ? standIn : 0;
  const own = frames.map(feed.frameAt).filter((one) => one !== null);
  return [...new Set(own)].map((one) => ({ frame: one, wide }));
}

/** A frame, and those that a step goes to next. */
function around(frame: number, way: number, count: number): number[] {
  const found = [frame, frame + way, frame - way];
  for (let by = 2; by <= NEXT; by++) found.push(frame + way * by);
  for (let by = 2; by <= BEHIND; by++) found.push(frame - way * by);
  return found.filter((one) => one >= 0 && one < count);
}
