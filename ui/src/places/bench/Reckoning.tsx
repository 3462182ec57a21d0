import { useQuery } from "@tanstack/react-query";
import { Link2 } from "lucide-react";
import { useEffect, useState } from "react";
import type { Shot } from "../../api/client";
import { costQuery } from "../../api/queries";
import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import { short, size, span } from "../../parts/words";
import type { Edit } from "./edit";

/** Rate × length = frames, always in sight; any term can be typed into. */
export function Reckoning({ shot, edit }: { shot: Shot; edit: Edit }) {
  const { reckoning } = shot;
  const [over, under = "1"] = reckoning.seconds.split("/");
  const seconds = Number(over) / Number(under);
  const byFrames = reckoning.given === "frames";
  const follows = (is: boolean) => (is ? "follows" : "");
  return (
    <div
      className="mt-1.5 flex flex-wrap items-center gap-x-2 gap-y-1 text-[15px]"
      data-testid="reckoning"
      title={reckoning.reasons.join("\n")}
    >
      <TextEntry
        label="Rate, frames a second"
        value={reckoning.rate}
        width={`${Math.max(reckoning.rate.length + 2.5, 5)}ch`}
        className="entry"
        onCommit={(rate) => edit({ clock: { rate } }, "the rate")}
      />
      <span>fps</span>
      <span aria-hidden>×</span>
      <NumberEntry
        label={byFrames ? "Seconds, follow from the frames" : "Seconds"}
        className={follows(byFrames)}
        value={seconds}
        width="5rem"
        onCommit={(value) => edit({ clock: { seconds: value, frames: null } }, "the length")}
      />
      <Follows when={byFrames} /> <span>s</span>
      <span aria-hidden>=</span>
      <NumberEntry
        label={byFrames ? "Frames" : "Frames, follow from the seconds"}
        className={`font-semibold ${follows(!byFrames)}`}
        value={reckoning.frames}
        whole
        width="5.5rem"
        onCommit={(value) => edit({ clock: { frames: value, seconds: null } }, "the number of frames")}
      />
      <Follows when={!byFrames} /> <span>frames</span>
      {reckoning.degrees_a_frame != null && (
        <Figure label="a frame" value={`${short(reckoning.degrees_a_frame, 3)}°`} />
      )}
      <Cost shot={shot} />
    </div>
  );
}

function Follows({ when }: { when: boolean }) {
  if (!when) return null;
  return (
    <span
      className="quiet -ml-1 inline-flex items-center gap-0.5 text-[12px]"
      title="This term follows from the other two"
    >
      <Link2 size={13} aria-hidden /> follows
    </span>
  );
}

function Figure({ label, value }: { label: string; value: string }) {
  return (
    <span className="ml-2 border-l rule pl-3">
      <span className="figures">{value}</span> <span className="quiet">{label}</span>
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
