import { CircleCheck, Repeat, TriangleAlert } from "lucide-react";
import type { Shot } from "../../api/client";
import { useVersion } from "../../api/sourceChanges";
import { usePicture } from "./usePicture";
import { type SeamState, useSeam } from "./useSeam";

interface Props {
  shot: Shot;
  frame: number;
  onFrame: (frame: number) => void;
}

/** First and last frame, and how far the seam is from closing. */
export function LoopSeam({ shot, frame, onFrame }: Props) {
  const last = shot.timing.frames - 1;
  return (
    <div className="well flex w-[176px] shrink-0 flex-col gap-3 overflow-y-auto max-lg:w-full max-lg:flex-row max-lg:border-r-0 [justify-content:safe_center] border-r border-black/20 p-3 text-white">
      <End shot={shot} name="First" at={0} current={frame} onFrame={onFrame} />
      <End shot={shot} name="Last" at={last} current={frame} onFrame={onFrame} />
      <Seam {...useSeam(shot)} />
    </div>
  );
}

function Seam({ seam: { state, what }, checking, measure, measuring, error }: SeamState) {
  const asks = state === "source" && !checking;
  const Icon = state === "closes" ? CircleCheck : state === "source" ? Repeat : TriangleAlert;
  return (
    <div
      className="flex shrink-0 flex-col items-start gap-1.5 rounded bg-black/50 p-2 text-note leading-snug max-lg:min-w-0 max-lg:shrink lg:min-h-[5.4rem]"
      data-testid="seam"
    >
      {state === "none" ? (
        <span>Played once, with both ends.</span>
      ) : (
        <span className="flex gap-1.5">
          <Icon
            size={15}
            className={`mt-px shrink-0 ${state === "open" ? "text-[#ffc46b]" : ""}`}
            aria-hidden
          />
          <span>
            {asks
              ? "A loop. Measure pictures to see whether it closes."
              : checking
                ? "Checking the loop…"
                : `Seam: ${what}.`}
          </span>
        </span>
      )}
      {asks &&
        (measuring ? (
          <span role="status">Measuring on small pictures…</span>
        ) : (
          <button type="button" className="btn btn-xs" onClick={measure}>
            Measure the seam
          </button>
        ))}
      {error && <span role="alert">{error.message}</span>}
    </div>
  );
}

interface EndProps {
  shot: Shot;
  name: string;
  at: number;
  current: number;
  onFrame: (frame: number) => void;
}

function End({ shot, name, at, current, onFrame }: EndProps) {
  const version = useVersion(shot.id);
  const { address } = usePicture(
    { shotId: shot.id, revision: shot.revision, version, frame: at, width: 300, height: 200, samples: 2 },
    2,
  );
  const clear = shot.document.picture.background === "transparent";
  return (
    <button
      type="button"
      className={`flex min-h-[78px] flex-col rounded-sm text-left outline-offset-2 ${current === at ? "ring-2 ring-white" : "hover:ring-1 hover:ring-white/70"}`}
      onClick={() => onFrame(at)}
      aria-label={`${name} ${at}, go to this frame`}
    >
      {/* Above open lanes there is little room: the pictures shrink, not the line about the seam. */}
      <span className="flex min-h-0 grow justify-center bg-black/15">
        {address && (
          <img
            src={address}
            alt=""
            className={`max-h-[130px] min-h-0 max-w-full object-contain ${clear ? "well-checks" : ""}`}
          />
        )}
      </span>
      <span className="figures flex shrink-0 justify-between bg-black/50 px-1.5 py-0.5 text-note">
        <span className="font-sans">{name} </span>
        <span>{at}</span>
      </span>
    </button>
  );
}
