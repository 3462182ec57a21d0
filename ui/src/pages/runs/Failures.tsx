import { useQuery } from "@tanstack/react-query";
import type { Run } from "../../api/client";
import { framesQuery } from "../../api/runQueries";
import { pictureWords } from "./words";

const SHOWN = 200;

/** Frames that failed, each with its error. */
export function Failures({ run }: { run: Run }) {
  const { data } = useQuery(framesQuery(run.id, "failed", 0, SHOWN));
  return (
    <section
      className="rounded-box border border-error bg-base-100 p-3"
      aria-label="Failed frames"
      data-testid="failures"
    >
      <h2 className="mb-1.5 font-semibold">Failed frames</h2>
      <ul className="max-h-64 overflow-auto text-small">
        {data?.frames.map((frame) => (
          <li key={frame.number} className="border-b rule py-1 last:border-b-0">
            <b className="figures">✕ {pictureWords(run, frame.number)}</b> {frame.error}
          </li>
        ))}
      </ul>
      {data && data.total > SHOWN && <p className="quiet text-note">and {data.total - SHOWN} more</p>}
    </section>
  );
}
