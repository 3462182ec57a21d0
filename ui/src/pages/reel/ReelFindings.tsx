import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { body, client } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { looksQuery } from "./queries";
import type { ReelData } from "./reelItems";
import type { ReelEdits } from "./useReel";

/** The findings of the reel with their fixes, and its missing frames. */
export function ReelFindings({ reel, edits }: { reel: ReelData; edits: ReelEdits }) {
  const capture = useMutation({
    mutationFn: () =>
      body(client.POST("/api/reels/{reel_id}/captures", { params: { path: { reel_id: reel.id } } })),
  });
  const renew = useMutation({
    mutationFn: async () =>
      edits.take(
        await body(
          client.POST("/api/reels/{reel_id}/renewals", {
            params: { path: { reel_id: reel.id }, query: { revision: reel.revision, since: reel.state } },
          }),
        ),
      ),
  });
  const looks = useLooks(reel);
  const findings = [...reel.findings, ...(looks.data?.findings ?? [])];
  const older = reel.to_renew.reduce((sum, one) => sum + one.frames, 0);
  const count = reel.to_capture.reduce((sum, one) => sum + one.frames, 0);
  return (
    <section aria-label="Findings" className="flex flex-col gap-2 text-small" data-testid="reel-findings">
      {count > 0 && (
        <div className="rounded-box border border-warning p-2.5">
          <p className="mb-1.5">
            {reel.to_capture.map((one) => `${one.frames} frames of ${one.label}`).join(", ")} still to be
            captured; until then the nearest ones that there are stand in.
          </p>
          <button
            type="button"
            className="btn btn-sm"
            disabled={capture.isPending}
            onClick={() => capture.mutate()}
          >
            Capture {count} frames
          </button>
          <ErrorAlert error={capture.error} />
        </div>
      )}
      {reel.items.map(
        (item, at) => item.trouble && <ErrorAlert key={item.name + reel.starts[at]} error={item.trouble} />,
      )}
      {older > 0 && (
        <button
          type="button"
          className="btn btn-sm self-start"
          disabled={renew.isPending}
          title="The shots are captured again; the reel then shows their newest takes"
          onClick={() => renew.mutate()}
        >
          Update take from its shot, {older} frames
        </button>
      )}
      <ErrorAlert error={renew.error} onClose={renew.reset} />
      {findings.map((finding) => (
        <div key={finding.name + finding.what} className="rounded-box border border-warning p-2.5">
          <p>
            {finding.what}. <span className="quiet">{finding.cost}</span>
          </p>
          {finding.fixes.length > 0 && (
            <div className="mt-1.5 flex flex-wrap gap-1.5">
              {finding.fixes.map((fix) => (
                <button
                  key={fix.label}
                  type="button"
                  className="btn btn-xs"
                  onClick={() => edits.change(fix.patch, fix.label.toLowerCase())}
                >
                  {fix.label}
                </button>
              ))}
            </div>
          )}
        </div>
      ))}
      {reel.more_findings && <p className="quiet">There are more findings: fix these first.</p>}
      {looks.data?.left_out && <p className="quiet">{looks.data.left_out}.</p>}
      {looks.isFetching && <p className="quiet">Looking through the pictures…</p>}
      {findings.length === 0 && count === 0 && reel.frames > 0 && !looks.isFetching && (
        <p className="quiet">No findings</p>
      )}
    </section>
  );
}

const REST_MS = 1500;

/** Looks a reel through once it has not been edited for a while. */
function useLooks(reel: ReelData) {
  const [rested, setRested] = useState(-1);
  useEffect(() => {
    const over = setTimeout(() => setRested(reel.revision), REST_MS);
    return () => clearTimeout(over);
  }, [reel.revision]);
  const whole = reel.to_capture.length === 0 && reel.items.every((item) => !item.trouble);
  const enabled = rested === reel.revision && whole && reel.frames > 0;
  return useQuery({ ...looksQuery(reel.id, reel.revision), enabled });
}
