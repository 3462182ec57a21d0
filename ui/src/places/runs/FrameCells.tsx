import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Run } from "../../api/client";
import { statesQuery } from "../../api/queries";
import { AroundButton } from "../../parts/AroundButton";
import { LookAround } from "../../parts/LookAround";
import { StrandChoice } from "./StrandChoice";

const CELLS = 480;
const LOOKS: Record<string, { words: string; look: string }> = {
  w: { words: "waiting", look: "border-b-2 border-base-content/40" },
  m: { words: "made", look: "bg-primary" },
  k: { words: "kept", look: "border-2 border-primary" },
  f: { words: "failed", look: "bg-error text-error-content" },
};

/** All frames of a run as cells, several frames to a cell when there are many, with the picture of one. */
export function FrameCells({ run }: { run: Run }) {
  const { data } = useQuery(statesQuery(run.id));
  const [chosen, setChosen] = useState<number | null>(null);
  const strands = run.strands.length;
  const [strand, setStrand] = useState(0);
  const pictures = data?.states ?? "";
  const states = strands === 1 ? pictures : [...pictures].filter((_, n) => n % strands === strand).join("");
  const group = Math.max(1, Math.ceil(run.count / strands / CELLS));
  const newest = Math.max(states.lastIndexOf("m"), states.lastIndexOf("k"));
  const shown = chosen ?? newest;
  const ready = shown >= 0 && "mk".includes(states[shown] ?? "w");
  const [around, setAround] = useState(false);
  const panorama = run.panoramas[strand];
  const address = `/api/runs/${run.id}/frames/${shown * strands + strand}.png`;
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
              : "The first frame is being made…"}
          </span>
        )}
      </div>
      <div className="my-2 flex items-center gap-3 text-[12px]">
        <StrandChoice
          run={run}
          label="Camera and pass shown"
          strand={strand}
          onStrand={setStrand}
          className="text-[12px]"
        />
        {panorama && <AroundButton around={around} onAround={setAround} />}
        <span className="figures">frame {shown >= 0 ? shown : "–"}</span>
        <span className="quiet flex-1">
          {group > 1 ? `one cell is ${group} frames` : "press a cell to see its frame"}
        </span>
        {Object.values(LOOKS).map(({ words, look }) => (
          <span key={words} className="flex items-center gap-1">
            <Mark look={look} failed={words === "failed"} /> {words}
          </span>
        ))}
      </div>
      <div className="flex flex-wrap gap-[3px]">
        {Array.from({ length: Math.ceil(states.length / group) }, (_, n) => {
          const within = states.slice(n * group, (n + 1) * group);
          const state = ["f", "w", "m", "k"].find((s) => within.includes(s)) ?? "w";
          const { words, look } = LOOKS[state];
          return (
            <button
              // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
              key={n}
              type="button"
              title={`frame ${n * group}: ${words}`}
              aria-label={`frame ${n * group}, ${words}`}
              className={
                shown >= n * group && shown < (n + 1) * group ? "rounded-[2px] ring-2 ring-base-content" : ""
              }
              onClick={() => setChosen(n * group)}
            >
              <Mark look={look} failed={state === "f"} />
            </button>
          );
        })}
      </div>
    </section>
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
