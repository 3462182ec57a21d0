import { useQuery } from "@tanstack/react-query";
import { CircleCheck, TriangleAlert } from "lucide-react";
import { Link } from "react-router";
import type { Run, Shot } from "../../api/client";
import { sourceQuery } from "../../api/queries";
import { RunLine } from "../runs/RunLine";
import type { Edit } from "./edit";
import { FindingCard } from "./FindingCard";
import { useFindings } from "./findings";
import { useSeam } from "./useSeam";

/** Lists what was checked and is right; it includes the seam only where that is known. */
const NO_FINDINGS = {
  none: "No findings: the count and the size are right.",
  closes: "No findings: the count, the seam and the size are right.",
  open: "The count and the size are right. The loop does not close: see the seam below the first and last frame.",
  source: "No findings: the count and the size are right. The seam has not been measured.",
};

interface Props {
  shot: Shot;
  edit: Edit;
  runs: Run[];
}

/** Is it safe to start the long capture? Findings, and what was captured before. */
export function PreflightPanel({ shot, edit, runs }: Props) {
  const { data: source, error: unseen, isFetching } = useQuery(sourceQuery(shot));
  const { seam } = useSeam(shot);
  const findings = useFindings(shot, source);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="min-h-0 flex-1 overflow-auto p-3">
        <h2 className="mb-2 text-small font-semibold uppercase tracking-wide quiet">Preflight</h2>
        {findings.length === 0 && unseen ? (
          <p className="flex items-start gap-2 text-small" data-testid="unseen">
            <TriangleAlert size={16} className="mt-0.5 shrink-0 text-warning" aria-hidden />
            The count and the size are right, but the source cannot be read: see the error in the viewfinder.
          </p>
        ) : findings.length === 0 && (isFetching || !source) ? (
          <p className="quiet text-small">Checking the source and the camera path…</p>
        ) : findings.length === 0 ? (
          <p className="flex items-start gap-2 text-small" data-testid="no-findings">
            <CircleCheck size={16} className="mt-0.5 shrink-0 text-primary" aria-hidden />
            {NO_FINDINGS[seam.state]}
          </p>
        ) : (
          <ul className="flex flex-col gap-2">
            {findings.map((finding) => (
              <FindingCard key={finding.name + finding.what} finding={finding} edit={edit} />
            ))}
          </ul>
        )}
        <ul className="quiet mt-3 flex flex-col gap-1 border-t rule pt-3 text-small">
          {shot.timing.reasons.map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
        </ul>
        {runs.length > 0 && (
          <>
            <h2 className="mb-1 mt-4 text-small font-semibold uppercase tracking-wide quiet">
              Runs of this shot
            </h2>
            <ul className="flex flex-col">
              {runs.slice(0, 4).map((run) => (
                <RunLine key={run.id} run={run} brief />
              ))}
            </ul>
            {runs.length > 4 && (
              <Link to="/runs" className="link text-small">
                all {runs.length} runs
              </Link>
            )}
          </>
        )}
      </div>
    </div>
  );
}
