import { size } from "../parts/format";
import { Refusal, refusal } from "./client";

/** As much as the server takes: it would let the browser send in vain. */
const MOST_BYTES = 2 * 1024 ** 3;

/** Sends files; what the server made of them. */
export async function upload<Answer>(address: string, files: File[]): Promise<Answer> {
  const bytes = files.reduce((sum, file) => sum + file.size, 0);
  if (bytes > MOST_BYTES)
    throw new Refusal(
      `${size(bytes)} are too much to upload at once: give the path on this machine instead.`,
    );
  const form = new FormData();
  // A file out of a folder keeps its place in it, since others may name it so.
  for (const file of files) form.append("files", file, file.webkitRelativePath || file.name);
  const answer = await fetch(address, { method: "POST", body: form });
  const answered = await answer.json().catch(() => undefined);
  if (!answer.ok) throw refusal(answered, answer.status);
  return answered as Answer;
}
