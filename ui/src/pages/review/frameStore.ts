/** Pictures of one subject, decoded ahead of the playhead and kept within a budget. */

/** Bytes of decoded pictures, and of their files, that are kept. */
const DECODED_BYTES = 400e6;
const FILE_BYTES = 250e6;
const AT_ONCE = 3;
const RETRY_MS = 1000;
const UNWANTED = 1e9;

export interface Wanted {
  frame: number;
  /** Width of a small one; 0 for the frame's own. */
  wide: number;
}

const keyOf = ({ frame, wide }: Wanted) => `${wide}:${frame}`;

export class FrameStore {
  private readonly decoded = new Map<string, { frame: number; bitmap: ImageBitmap }>();
  private readonly files = new Map<string, Blob>();
  private readonly going = new Set<string>();
  private readonly failed = new Map<string, string>();
  private bytes = 0;
  private fileBytes = 0;
  private queue: Wanted[] = [];
  private ranks = new Map<string, number>();
  private focus = 0;
  private closed = false;

  constructor(
    private readonly address: (frame: number, wide: number) => string,
    private readonly onArrive: () => void,
  ) {}

  /** A decoded picture, if it is there. */
  at(wanted: Wanted): ImageBitmap | undefined {
    return this.decoded.get(keyOf(wanted))?.bitmap;
  }

  /** Why a picture cannot be shown; empty where it can. */
  trouble(frame: number): string {
    return this.failed.get(keyOf({ frame, wide: 0 })) ?? "";
  }

  /** Replaces what is fetched next: the most urgent first. */
  want(wanted: Wanted[], focus: number) {
    this.queue = wanted;
    this.ranks = new Map(wanted.map((one, place) => [keyOf(one), place]));
    this.focus = focus;
    this.begin();
  }

  close() {
    this.closed = true;
    this.queue = [];
    for (const { bitmap } of this.decoded.values()) bitmap.close();
    this.decoded.clear();
    this.files.clear();
  }

  private begin() {
    while (!this.closed && this.going.size < AT_ONCE) {
      const next = this.queue.find((one) => {
        const key = keyOf(one);
        return !this.decoded.has(key) && !this.going.has(key) && !this.failed.has(key);
      });
      if (!next) return;
      // One that would only take the place of what is needed before it waits.
      const place = this.ranks.get(keyOf(next)) ?? 0;
      if (this.bytes > 0.95 * DECODED_BYTES && this.leastWanted()[1] <= place) return;
      void this.fetch(next);
    }
  }

  private async fetch(wanted: Wanted) {
    const key = keyOf(wanted);
    this.going.add(key);
    try {
      const file = this.files.get(key) ?? (await this.download(wanted));
      const bitmap = await createImageBitmap(file);
      if (this.closed) bitmap.close();
      else this.keep(key, wanted.frame, bitmap);
    } catch (error) {
      // The server may be back soon; only what it refuses is not asked for again.
      if (error instanceof TypeError) await new Promise((done) => setTimeout(done, RETRY_MS));
      else this.failed.set(key, error instanceof Error ? error.message : String(error));
    }
    this.going.delete(key);
    if (this.closed) return;
    this.onArrive();
    this.begin();
  }

  private async download(wanted: Wanted): Promise<Blob> {
    const answer = await fetch(this.address(wanted.frame, wanted.wide));
    if (!answer.ok) {
      const said = (await answer.json().catch(() => null)) as { error?: string } | null;
      throw new Error(said?.error ?? `Vexel answered with status ${answer.status}.`);
    }
    const file = await answer.blob();
    this.files.set(keyOf(wanted), file);
    this.fileBytes += file.size;
    for (const [key, old] of this.files) {
      if (this.fileBytes <= FILE_BYTES) break;
      this.files.delete(key);
      this.fileBytes -= old.size;
    }
    return file;
  }

  private keep(key: string, frame: number, bitmap: ImageBitmap) {
    this.decoded.set(key, { frame, bitmap });
    this.bytes += bytesOf(bitmap);
    while (this.bytes > DECODED_BYTES && this.decoded.size > 2) {
      const [worst] = this.leastWanted();
      const dropped = this.decoded.get(worst);
      if (!dropped) return;
      this.decoded.delete(worst);
      this.bytes -= bytesOf(dropped.bitmap);
      dropped.bitmap.close();
    }
  }

  /** What is decoded and wanted last, and how many are wanted before it: first what is not wanted, from far away. */
  private leastWanted(): [string, number] {
    let [worst, most] = ["", -1];
    for (const [key, { frame }] of this.decoded) {
      const before = this.ranks.get(key) ?? UNWANTED + Math.abs(frame - this.focus);
      if (before > most) [worst, most] = [key, before];
    }
    return [worst, most];
  }
}

const bytesOf = (bitmap: ImageBitmap) => 4 * bitmap.width * bitmap.height;

/** How many frames of a size can be kept decoded. */
export const mostDecoded = (width: number, height: number) =>
  Math.floor(DECODED_BYTES / (4 * width * height)) - 4;
