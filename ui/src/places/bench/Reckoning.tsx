import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Schemas, Shot } from "../../api/client";
import { costQuery } from "../../api/queries";
import { short, size, span } from "../../parts/words";
import type { Edit } from "./edit";
import { TermEntry } from "./TermEntry";

type Pin = NonNullable<Schemas["ClockPlan"]["pins"]>[number];
export type SetTerm = (order: { term: string; text: string }) => void;

/** Rate × length = frames, always in sight; any term can be typed into, and pinned. */
export function Reckoning({ shot, edit, onTerm }: { shot: Shot; edit: Edit; onTerm: SetTerm }) {
  const terms = new Map(shot.terms.map((term) => [term.name, term]));
  const pins = shot.document.clock.pins ?? [];
  const entry = (name: Pin, width: string, className = "") => {
    const term = terms.get(name);
    if (!term) return null;
    return (
      <TermEntry
        term={term}
        width={width}
        className={className}
        onType={(text) => onTerm({ term: name, text })}
        onPin={() =>
          edit(
            { clock: { pins: term.pinned ? pins.filter((pin) => pin !== name) : [...pins, name] } },
            `the pin of the ${term.label}`,
          )
        }
      />
    );
  };
  const rate = shot.reckoning.rate;
  return (
    <div
      className="mt-1.5 flex flex-wrap items-center gap-x-1.5 gap-y-1 text-[15px]"
      data-testid="reckoning"
      title={shot.reckoning.reasons.join("\n")}
    >
      {entry("rate", `${Math.max(rate.length + 2.5, 5)}ch`)}
      <span>fps</span>
      <span aria-hidden>×</span>
      {entry("seconds", "5.2rem")}
      <span>s</span>
      <span aria-hidden>=</span>
      {entry("frames", "5rem", "font-semibold")}
      <span>frames</span>
      <Shown shot={shot} />
      {terms.has("degrees") && (
        <span className="ml-2 flex items-center gap-1.5 border-l rule pl-3">
          {entry("degrees", "4.4rem")} <span className="quiet">° a frame</span>
          {entry("turn_seconds", "4.4rem")} <span className="quiet">s a turn</span>
        </span>
      )}
      {terms.has("pace") && (
        <span className="ml-2 flex items-center gap-1.5 border-l rule pl-3">
          <span className="quiet">pace</span> {entry("pace", "4rem")}
        </span>
      )}
      <Cost shot={shot} />
    </div>
  );
}

/** What is shown of the motion, where that is not all of it as it is. */
function Shown({ shot }: { shot: Shot }) {
  const { frames, motion, playback_label, rate_label, seconds_label } = shot.reckoning;
  if (frames === motion && playback_label === rate_label) return null;
  return (
    <span className="figures ml-1" data-testid="shown">
      → {frames.toLocaleString("en")} shown, {seconds_label} at {playback_label}
    </span>
  );
}

const REST_MS = 1500;

/** Whether nothing was edited for a while, so that a costly question disturbs no drag. */
function useRested(revision: number): boolean {
  const [rested, setRested] = useState<number | null>(null);
  useEffect(() => {
    const rest = setTimeout(() => setRested(revision), REST_MS);
    return () => clearTimeout(rest);
  }, [revision]);
  return rested === revision;
}

function Cost({ shot }: { shot: Shot }) {
  const rested = useRested(shot.revision);
  const { data, isFetching } = useQuery({ ...costQuery(shot.id, shot.revision), enabled: rested });
  const why = data
    ? `From frame ${data.frame}, made just now at full quality: ${short(data.seconds / shot.reckoning.frames, 2)} s and ${size(data.bytes / shot.reckoning.frames)} a frame, on all cores`
    : "";
  return (
    <span className={`ml-2 flex gap-3 border-l rule pl-3 ${isFetching ? "opacity-60" : ""}`} title={why}>
      <span>
        <span className="figures">{data ? `≈ ${span(data.seconds)}` : "…"}</span>{" "}
        <span className="quiet">to capture</span>
      </span>
      <span>
        <span className="figures">{data ? `≈ ${size(data.bytes)}` : "…"}</span>{" "}
        <span className="quiet">on disk</span>
      </span>
    </span>
  );
}
