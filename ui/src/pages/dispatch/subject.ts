import { body, client, type Run } from "../../api/client";
import type { RecipeDocument } from "./draft";

/** What leaves: a camera pass of a take, or a reel. */
export type Subject = { frames: number } & (
  | { of: "take"; run: Run; cameraPass: number }
  | { of: "reel"; id: string; title: string; summary: string }
);

export const subjectOfTake = (run: Run, cameraPass: number): Subject => ({
  of: "take",
  run,
  cameraPass,
  frames: Math.max(Math.round(run.count / Math.max(run.camera_passes.length, 1)), 1),
});

export const keyOf = (subject: Subject) =>
  subject.of === "take" ? `run ${subject.run.id} ${subject.cameraPass}` : `reel ${subject.id}`;

/** A name for a trial, by which the server ends it where nobody waits for it any more. */
function ticketFor(signal?: AbortSignal): string {
  const ticket = crypto.randomUUID();
  const callOff = () => client.DELETE("/api/trials/{ticket}", { params: { path: { ticket } } });
  signal?.addEventListener("abort", () => void callOff().catch(() => undefined), { once: true });
  return ticket;
}

const orderOf = (subject: Subject, document: RecipeDocument, frame: number, signal?: AbortSignal) => ({
  ticket: ticketFor(signal),
  recipe: document as Record<string, unknown>,
  camera_pass: subject.of === "take" ? subject.cameraPass : 0,
  frame,
});

/** How a frame looks in a file, and what the whole weighs. */
export const askTrial = (subject: Subject, document: RecipeDocument, frame: number, signal?: AbortSignal) =>
  body(
    subject.of === "take"
      ? client.POST("/api/runs/{run_id}/trial", {
          params: { path: { run_id: subject.run.id } },
          body: orderOf(subject, document, frame, signal),
          signal,
        })
      : client.POST("/api/reels/{reel_id}/trial", {
          params: { path: { reel_id: subject.id } },
          body: orderOf(subject, document, frame, signal),
          signal,
        }),
  );

export const askGifTable = (subject: Subject, document: RecipeDocument, signal: AbortSignal) =>
  body(
    subject.of === "take"
      ? client.POST("/api/runs/{run_id}/gif-table", {
          params: { path: { run_id: subject.run.id } },
          body: orderOf(subject, document, 0, signal),
          signal,
        })
      : client.POST("/api/reels/{reel_id}/gif-table", {
          params: { path: { reel_id: subject.id } },
          body: orderOf(subject, document, 0, signal),
          signal,
        }),
  );
