import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";
import type { Run } from "../../api/client";
import { statesQuery } from "../../api/runQueries";
import { AroundButton } from "../../parts/around/AroundButton";
import { LookAround } from "../../parts/around/LookAround";
import { CaptureAgain } from "./CaptureAgain";
import { PassChoice } from "./PassChoice";
import { active } from "./words";

const CELLS = 480;
const LOOKS: Record<string, { words: string; look: string }> = {
  w: { words: "waiting", look: "border-b-2 border-base-content/40" },
  m: { words: "made", look: "bg-primary" },
  k: { words: "reused", look: "border-2 border-primary" },
  f: { words: "failed", look: "bg-error text-error-content" },
};

/** All frames of a run as cells, several frames to a cell when there are many, with the picture of one. */
export function FrameCells({ run }: { run: Run }) {
  const { data } = useQuery(statesQuery(run));
  const [chosen, setChosen] = useState<number | null>(null);
  const cameraPasses = run.camera_passes.length;
  const [cameraPass, setCameraPass] = useState(0);
  const pictures = data?.states ?? "";
  const states =
    cameraPasses === 1 ? pictures : [...pictures].filter((_, n) => n % cameraPasses === cameraPass).join("");
  const group = Math.max(1, Math.ceil(run.count / cameraPasses / CELLS));
  const newest = Math.max(states.lastIndexOf("m"), states.lastIndexOf("k"));
  const shown = chosen ?? newest;
  const ready = shown >= 0 && "mk".includes(states[shown] ?? "w");
  const [around, setAround] = useState(false);
  const panorama = run.panoramas[cameraPass];
  const address = `/api/runs/${run.id}/frames/${shown * cameraPasses + cameraPass}.png`;
  return (
    <section aria-label="Frames" className="rounded-box border rule bg-base-100 p-3">
      <div className="well flex aspect-video items-center justify-center overflow-hidden rounded-sm">
        {ready && around && panorama ? (
          <LookAround picture={address} panorama={panorama} />
        ) : ready ? (
          <img
            className="well-checks max-h-full max-w-full"
            src={address}
            alt={`Frame ${shown}`}
            data-testid="frame-picture"
          />
        ) : (
          <span className="text-white">
            {shown >= 0
              ? `Frame ${shown} is ${LOOKS[states[shown]]?.words}`
              : active(run)
                ? "The first frame is being made…"
                : "No frame has been made"}
          </span>
        )}
      </div>
      <div className="my-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-note">
        <PassChoice
          run={run}
          label="Camera and pass shown"
          cameraPass={cameraPass}
          onCameraPass={setCameraPass}
          className="text-note"
        />
        {ready && (
          <a className="btn btn-xs font-normal" href={`${address}?download=1`}>
            <Download size={13} aria-hidden /> Save this frame
          </a>
        )}
        {panorama && <AroundButton around={around} onAround={setAround} />}
        <span className="figures">frame {shown >= 0 ? shown : "–"}</span>
        <span className="quiet flex-1">
          {group > 1 ? `one cell is ${group} frames` : "click a cell to see its frame"}
        </span>
        {Object.values(LOOKS).map(({ words, look }) => (
          <span key={words} className="flex items-center gap-1">
            <Mark look={look} failed={words === "failed"} /> {words}
          </span>
        ))}
      </div>
      <Cells states={states} group={group} shown={shown} onChoose={setChosen} />
      <CaptureAgain run={run} shown={shown} />
    </section>
  );
}

interface CellsProps {
  states: string;
  /** Frames a cell. */
  group: number;
  shown: number;
  onChoose: (frame: number) => void;
}

/** The cells as one thing to be worked: a press chooses a frame, arrow keys go from one to the next. */
function Cells({ states, group, shown, onChoose }: CellsProps) {
  const last = states.length - 1;
  const words = (frame: number) => LOOKS[states[frame] ?? "w"]?.words ?? "";
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="Frame shown"
      aria-valuemin={0}
      aria-valuemax={Math.max(last, 0)}
      aria-valuenow={Math.max(shown, 0)}
      aria-valuetext={shown >= 0 ? `frame ${shown}, ${words(shown)}` : "no frame yet"}
      data-testid="cells"
      className="flex flex-wrap rounded-sm"
      onClick={(event) => {
        const cell = (event.target as HTMLElement).closest<HTMLElement>("[data-frame]");
        if (cell) onChoose(Number(cell.dataset.frame));
      }}
      onKeyDown={(event) => {
        const to = {
          ArrowLeft: shown - 1,
          ArrowRight: shown + 1,
          PageUp: shown - 10,
          PageDown: shown + 10,
          Home: 0,
          End: last,
        }[event.key];
        if (to === undefined || last < 0) return;
        event.preventDefault();
        onChoose(Math.min(Math.max(to, 0), last));
      }}
    >
      {Array.from({ length: Math.ceil(states.length / group) }, (_, n) => {
        const within = states.slice(n * group, (n + 1) * group);
        const state = ["f", "w", "m", "k"].find((s) => within.includes(s)) ?? "w";
        const { words, look } = LOOKS[state];
        const chosen = shown >= n * group && shown < (n + 1) * group;
        return (
          <span
            // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
            key={n}
            data-frame={n * group}
            title={`frame ${n * group}: ${words}`}
            className="cursor-pointer p-[1.5px]"
          >
            <span className={`block rounded-[2px] ${chosen ? "ring-2 ring-base-content" : ""}`}>
              <Mark look={look} failed={state === "f"} />
            </span>
          </span>
        );
      })}
    </div>
  );
}

function Mark({ look, failed }: { look: string; failed: boolean }) {
  return (
    <span
      aria-hidden
      className={`flex size-[11px] items-center justify-center rounded-[2px] text-[9px] font-bold leading-none ${look}`}
    >
      {failed ? "✕" : ""}
    </span>
  );
}
