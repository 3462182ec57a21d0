import { framePictureOf, type ReelData } from "./reelItems";
import type { Trim } from "./trim";

/** The first and the last frame that an item plays, large, while an end of it is moved. */
export function TrimPicture({ reel, trim }: { reel: ReelData; trim: Trim }) {
  const item = reel.items[trim.item];
  if (!item || item.media === 0)
    return (
      <p className="rounded bg-base-100 px-3 py-1.5 text-small" data-testid="trim">
        {trim.length} frames, {(trim.length / reel.rate).toFixed(2)} s
      </p>
    );
  const frames = [
    { name: "first", frame: trim.first, moved: trim.side === "start" },
    { name: "last", frame: trim.last, moved: trim.side === "end" },
  ];
  return (
    <div className="flex h-full w-full gap-2 p-2" data-testid="trim">
      {frames.map(({ name, frame, moved }) => (
        <figure key={name} className="flex min-w-0 flex-1 flex-col items-center justify-center gap-1">
          <img
            src={framePictureOf(reel, trim.item, frame, 960)}
            alt={`The ${name} frame that is played`}
            className={`min-h-0 w-full object-contain ${moved ? "outline-3 outline-primary" : ""}`}
          />
          <figcaption className="figures self-center rounded bg-base-100 px-2 text-small">
            {name} {frame} of {item.media - 1}
          </figcaption>
        </figure>
      ))}
    </div>
  );
}
