import { useQuery } from "@tanstack/react-query";
import { costQuery, sweepQuery } from "../../api/benchQueries";
import type { Schemas, Shot } from "../../api/client";
import { count, size, sizes, span } from "../../parts/format";
import { useDetails } from "../../parts/hooks/useDetails";
import type { Edit } from "./edit";
import { TermEntry } from "./TermEntry";
import { useRested } from "./useRested";

type Pin = NonNullable<Schemas["ClockSpec"]["pins"]>[number];
export type SetTerm = (order: { term: string; text: string }) => void;

/** Rate × length = frames, always in sight; any term can be typed into, and pinned. */
export function TimingLine({ shot, edit, onTerm }: { shot: Shot; edit: Edit; onTerm: SetTerm }) {
  const details = useDetails();
  const terms = new Map(shot.terms.map((term) => [term.name, term]));
  const pins = shot.document.clock.pins;
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
  const rate = shot.timing.rate;
  return (
    <div
      className="flex min-w-0 flex-1 flex-wrap items-center gap-x-1.5 gap-y-1 text-lead max-md:basis-full"
      data-testid="timing"
      title={shot.timing.reasons.join("\n")}
    >
      {entry("rate", `${Math.max(rate.length + 2.5, 5)}ch`)}
      <span>fps</span>
      <span aria-hidden>×</span>
      {entry("seconds", "4.6rem")}
      <span>s</span>
      <span aria-hidden>=</span>
      {entry("frames", "4.6rem", "font-semibold")}
      <span>frames</span>
      <Shown shot={shot} />
      <Variants shot={shot} />
      {details && terms.has("degrees") && (
        <span className="ml-2 flex items-center gap-1.5 whitespace-nowrap border-l rule pl-3 max-sm:ml-0 max-sm:border-l-0 max-sm:pl-0">
          {entry("degrees", "4rem")} <span className="quiet">° per frame</span>
          {entry("turn_seconds", "4rem")} <span className="quiet">s per turn</span>
        </span>
      )}
      {terms.has("pace") && (
        <span className="ml-2 flex items-center gap-1.5 whitespace-nowrap border-l rule pl-3 max-sm:ml-0 max-sm:border-l-0 max-sm:pl-0">
          <span className="quiet">pace</span> {entry("pace", "4rem")}
        </span>
      )}
      <Cost shot={shot} />
    </div>
  );
}

/** Which part of the motion is shown, and how, where that differs from the whole. */
function Shown({ shot }: { shot: Shot }) {
  const { frames, motion, playback_label, rate_label, seconds_label } = shot.timing;
  if (frames === motion && playback_label === rate_label) return null;
  return (
    <span className="figures ml-1" data-testid="shown">
      → {frames.toLocaleString("en")} shown, {seconds_label} at {playback_label}
    </span>
  );
}

/** How many pictures all variants of the shot make. */
function Variants({ shot }: { shot: Shot }) {
  const { data } = useVariants(shot);
  if (!data?.kept) return null;
  return (
    <span className="figures ml-1 whitespace-nowrap" title={data.sentence} data-testid="variants">
      × {count(data.kept, "variant")} → {count(data.pictures, "picture")}
    </span>
  );
}

const useVariants = (shot: Shot) =>
  useQuery({ ...sweepQuery(shot.id, shot.revision), enabled: shot.document.sweep != null });

/** How often the shot itself its variants cost, as far as they cost alike. */
function useTimes(shot: Shot): number {
  const { data } = useVariants(shot);
  if (shot.document.sweep == null || !data?.kept) return 1;
  return shot.document.sweep.makes === "shots" ? data.kept : data.kept / shot.timing.frames;
}

/** What a capture costs, and how that is known; pressed, all figures and the probe. */
function Cost({ shot }: { shot: Shot }) {
  const rested = useRested(shot.revision);
  const { data, isFetching } = useQuery({ ...costQuery(shot.id, shot.revision), enabled: rested });
  const said = data?.foretold;
  const times = useTimes(shot);
  return (
    <span
      className={`figures ml-auto min-w-32 whitespace-nowrap pl-2 text-right text-body ${isFetching ? "opacity-60" : ""}`}
      title={said ? "Foretold by a probe" : "A guess; the menu of the Capture button probes the shot"}
      data-testid="cost"
    >
      {data ? (
        <>
          <span className="quiet font-sans">{said ? "probed" : "guess ≈"}</span>{" "}
          {said?.seconds
            ? `${span(times * said.seconds.low)} to ${span(times * said.seconds.high)}`
            : span(times * data.seconds)}{" "}
          <span className="sr-only">to capture</span> ·{" "}
          {said
            ? sizes(times * said.bytes.low, times * said.bytes.high)
            : size(Math.round(times * data.bytes))}
        </>
      ) : (
        <span className="quiet font-sans">…</span>
      )}
    </span>
  );
}
