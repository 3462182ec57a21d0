import type { Run } from "../../api/client";

/** State of a run as people say it. */
export function stateWords(run: Run): string {
  switch (run.state) {
    case "waiting":
      return "waits its turn";
    case "running":
      return "under way";
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

export const active = (run: { state: string }) => run.state === "running" || run.state === "waiting";
