import type { Run } from "../../api/client";

/** State of a run, in words. */
export function stateWords(run: Run): string {
  switch (run.state) {
    case "queued":
      return run.after === null ? "queued" : `queued, after run ${run.after}`;
    case "running":
      if (run.paused) return "paused";
      return run.progress?.paused ? "paused, the disk is nearly full" : "running";
    case "stopped":
      return "stopped";
    case "failed":
      return run.failed ? "done, some frames failed" : "failed";
    default:
      return "done";
  }
}

export function doneOf(run: Run): number {
  return run.progress?.done ?? run.made + run.kept + run.failed;
}

/** Whether a job, or the check of a run, has not ended. */
export const active = (job: { state: string }) => job.state === "running" || job.state === "queued";

/** A picture of a take: its frame, and which camera with which pass where there are several. */
export function pictureWords(run: Run, number: number): string {
  const cameraPasses = run.camera_passes.length;
  const frame = Math.floor(number / cameraPasses);
  return cameraPasses === 1 ? String(frame) : `${frame} · ${run.camera_passes[number % cameraPasses]}`;
}
