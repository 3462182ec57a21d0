import { Pause, Play } from "lucide-react";
import { UNITS, type Unit } from "./Ruler";
import { clockOf, pictureOf, type ReelData, type ReelFormat } from "./reelItems";
import { Choice } from "./sheetParts";
import { TrimPicture } from "./TrimPicture";
import type { Trim } from "./trim";
import type { usePlaying } from "./usePlaying";

interface Props {
  reel: ReelData;
  frame: number;
  player: ReturnType<typeof usePlaying>;
  /** What is shown instead, while an end of an item is moved. */
  trim: Trim | null;
  /** The format that is shown; none for the reel's own size. */
  format: ReelFormat | null;
  onFormat: (name: string) => void;
  unit: Unit;
  onUnit: (unit: Unit) => void;
}

/** The picture of a frame; during playback, a small stand-in with a label. */
export function ReelPicture({ reel, frame, player, trim, format, onFormat, unit, onUnit }: Props) {
  const { width = 1920, height = 1080 } = format ?? reel.document;
  const { formats = [] } = reel.document;
  const clear = reel.document.background === "transparent";
  return (
    <section className="flex min-h-0 min-w-0 flex-1 flex-col gap-1.5" aria-label="Picture">
      <div className="well relative flex min-h-0 flex-1 items-center justify-center overflow-hidden rounded-box max-lg:h-[46vh] max-lg:min-h-56 max-lg:flex-none [@media(max-height:600px)]:h-[60vh] [@media(max-height:600px)]:min-h-56 [@media(max-height:600px)]:flex-none">
        {trim ? (
          <TrimPicture reel={reel} trim={trim} />
        ) : reel.frames > 0 ? (
          <img
            src={player.shown?.source ?? pictureOf(reel, frame, 1280, format?.name)}
            alt={`Frame ${frame} of the reel`}
            data-testid="reel-picture"
            className={`max-h-full max-w-full ${clear ? "well-checks" : ""}`}
            style={{
              aspectRatio: `${width} / ${height}`,
              ...(width >= height ? { width: "100%" } : { height: "100%" }),
              objectFit: "contain",
            }}
          />
        ) : (
          <span className="rounded bg-base-100 px-3 py-1.5 text-small">
            Add a take, a file or a title below
          </span>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="btn btn-sm btn-square"
          aria-label={player.playing ? "Pause" : "Play"}
          disabled={reel.frames === 0}
          onClick={player.toggle}
        >
          {player.playing ? <Pause size={16} aria-hidden /> : <Play size={16} aria-hidden />}
        </button>
        <span className="figures" data-testid="reel-frame">
          {frame} · {clockOf(frame, reel.rate)}
        </span>
        {formats.length > 0 && (
          <Choice
            label="Format shown"
            value={format?.name ?? ""}
            options={Object.fromEntries([
              ["", `${reel.document.width} × ${reel.document.height}`],
              ...formats.map((one) => [one.name, `${one.name} · ${one.width} × ${one.height}`]),
            ])}
            onPick={onFormat}
          />
        )}
        <Choice label="Ruler in" value={unit} options={UNITS} onPick={onUnit} />
        {player.shown && (
          <span className="quiet figures text-small">
            small pictures, {player.shown.achieved.toFixed(1)} of {reel.rate.toFixed(3).replace(/\.?0+$/, "")}{" "}
            fps shown
          </span>
        )}
      </div>
    </section>
  );
}
