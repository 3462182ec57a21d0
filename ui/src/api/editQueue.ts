import type { QueryClient } from "@tanstack/react-query";
import { type Patch, Refusal } from "./client";

/** A document as the server keeps it. */
interface Kept {
  id: string;
  revision: number;
}

/** The revision that an order was made from: what somebody else has changed since is not overwritten. */
export interface Based {
  revision?: number;
}

/** How documents of a kind are asked for, saved and shown. */
export interface DocumentKind<T extends Kept> {
  /** Head of the key of one document in the query cache. */
  key: string;
  /** Head of the key of their list. */
  list: string;
  /** The path of one at the server. */
  path: (id: string) => string;
  /** Requests one; the server may answer with the difference from `saved`, its last answer. */
  fetch: (id: string, saved?: T) => Promise<T>;
  save: (id: string, edit: Edit, query: Based, saved?: T) => Promise<T>;
  /** An answer with what it leaves out, taken from the one before; null where that is not at hand. */
  completed: (saved: T | undefined, answer: T) => T | null;
  /** A document with a patch that is not saved yet. */
  patched: (kept: T, patch: Patch) => T;
  /** The same for the screen; unchanged, where only the server knows the result. */
  shown: (kept: T, patch: Patch) => T;
  /** One patch that does what two do, one after the other; null where they are sent apart. */
  composed: (first: Patch, then: Patch) => Patch | null;
  /** Whether an edit says nothing without the ones before it. */
  builds: boolean;
}

/** Bytes that requests which outlive their page may have together: 64 KiB in the Fetch standard, with room for others. */
const MOST_KEPT_ALIVE = 50_000;

/** Options of a request that saves an edit: it continues when the page closes, unless it is too large for that. */
export const lasting = (edit: Edit) => ({ keepalive: JSON.stringify(edit).length < MOST_KEPT_ALIVE });

export interface Edit {
  patch: Patch;
  what: string;
  /** Edits of one burst are undone as one. */
  burst: string;
}

/** A change of a document: an edit that can be shown before it is saved, or an operation of the server. */
interface Order<T> {
  send: (query: Based) => Promise<T>;
  /** The revision that was on screen when it was wanted. */
  base: number | undefined;
  edit?: Edit;
}

/** Edits of one thing that follow each other this closely are one burst, and one undo. */
const BURST_MS = 1000;

/**
 * The edits of one document, in the order in which they were made. One is sent at a time; those of a burst that wait
 * are merged, and the screen shows the newest wish at once. It outlives the page that made the edits, so that none
 * is lost.
 */
export class EditQueue<T extends Kept> {
  private static readonly all = new Map<string, EditQueue<Kept>>();
  private waiting: Order<T>[] = [];
  private sending: Order<T> | null = null;
  private serving = false;
  private readonly resting: (() => void)[] = [];
  private readonly looking: (() => void)[] = [];
  private burst = { what: "", at: 0, number: 0 };
  private readonly listeners = new Set<() => void>();
  /** The last answer of the server. */
  private saved: T | undefined;
  /** How many orders the server has answered. */
  private answers = 0;
  /** Why the last order was refused, until a later one succeeds. */
  error: Error | null = null;
  private refused: Order<T> | null = null;

  static of<T extends Kept>(kind: DocumentKind<T>, id: string, queries: QueryClient): EditQueue<T> {
    const key = `${kind.key} ${id}`;
    let queue = EditQueue.all.get(key) as EditQueue<T> | undefined;
    if (!queue) {
      queue = new EditQueue(kind, id, queries);
      EditQueue.all.set(key, queue as unknown as EditQueue<Kept>);
    }
    return queue;
  }

  private constructor(
    private readonly kind: DocumentKind<T>,
    private readonly id: string,
    private readonly queries: QueryClient,
  ) {
    addEventListener("pagehide", this.sendAll);
  }

  /** The document as the server has it now, with all that is not saved yet. */
  read = async (): Promise<T> => {
    for (;;) {
      const { answers, saved } = this;
      const answer = await this.fetched();
      if (!this.saved || (answers === this.answers && !this.sending)) return this.arrived(answer);
      // The answer may or may not include the edit that is being sent. Applying the edit to it could apply it twice.
      await this.answered();
      if (answer.revision === this.saved.revision) return this.arrived(answer);
      if (answer.revision === saved?.revision) return this.overlaid(this.saved, this.kind.shown);
    }
  };

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  dismiss = () => this.setError(null);

  edit = (patch: Patch, what: string, burst = this.burstOf(what)) => {
    const last = this.waiting[this.waiting.length - 1]?.edit;
    const both = last?.burst === burst ? this.kind.composed(last.patch, patch) : null;
    if (last && both) last.patch = both;
    else {
      const edit = { patch, what, burst };
      this.waiting.push({
        edit,
        base: this.known(),
        send: (query) => this.kind.save(this.id, edit, query, this.saved),
      });
    }
    const now = this.now();
    if (now) this.queries.setQueryData([this.kind.key, this.id], this.kind.shown(now, patch));
    void this.serve();
  };

  /** Saves a patch that is computed from the document with all pending edits. */
  editFrom = (make: (now: T) => Patch, what: string, burst?: string) => {
    const act = () => {
      const now = this.wanted();
      if (now) this.edit(make(now), what, burst);
      else void this.read().then(act, this.setError);
    };
    // What an operation of the server leaves is not known before it has answered.
    if ([this.sending, ...this.waiting].some((order) => order && !order.edit)) void this.idle().then(act);
    else act();
  };

  /** Sends an operation after all edits that were made before it. */
  put = (send: (query: Based, saved?: T) => Promise<T>): Promise<T> => {
    const answered = new Promise<T>((resolve, reject) => {
      this.waiting.push({
        base: this.known(),
        send: (query) => send(query, this.saved).then(passed(resolve), thrown(reject)),
      });
    });
    // The banner shows a refusal to callers that do not wait for the answer.
    answered.catch(() => undefined);
    void this.serve();
    return answered;
  };

  /** Saves the edit that was refused since somebody else had changed the same, over theirs. */
  insist = () => {
    const refused = this.refused;
    this.refused = null;
    this.setError(null);
    if (refused?.edit) this.edit(refused.edit.patch, refused.edit.what);
    else if (refused) void this.put(() => refused.send({})).catch(() => undefined);
  };

  /** When all that was wanted so far is saved, or refused. */
  idle = (): Promise<void> =>
    new Promise((resolve) => {
      if (!this.serving) resolve();
      else this.resting.push(resolve);
    });

  private async serve() {
    if (this.serving) return;
    this.serving = true;
    const queryKey = [this.kind.key, this.id];
    for (let order = this.waiting.shift(); order; order = this.waiting.shift()) {
      this.sending = order;
      try {
        const answer = await order.send({ revision: order.base });
        const whole = this.kind.completed(this.saved, answer);
        this.ended();
        this.answers += 1;
        // Those that were wanted meanwhile knew of this one.
        for (const later of this.waiting) later.base = answer.revision;
        this.queries.setQueryData(queryKey, whole ? this.arrived(whole) : await this.read());
        this.setError(null);
      } catch (error) {
        this.ended();
        this.refused = error instanceof Refusal && error.stale ? order : null;
        if (this.kind.builds) this.waiting = this.waiting.filter((later) => !later.edit);
        this.setError(error as Error);
        await this.queries.refetchQueries({ queryKey, exact: true });
      }
      void this.queries.invalidateQueries({ queryKey: [this.kind.list] });
    }
    this.serving = false;
    for (const rested of this.resting.splice(0)) rested();
  }

  /** When the order that is being sent is answered, or refused. */
  private answered = (): Promise<void> =>
    new Promise((resolve) => {
      if (!this.sending) resolve();
      else this.looking.push(resolve);
    });

  private ended() {
    this.sending = null;
    for (const look of this.looking.splice(0)) look();
  }

  /** The document as the server has it. */
  private async fetched(): Promise<T> {
    const { fetch, completed } = this.kind;
    const { saved } = this;
    return completed(saved, await fetch(this.id, saved)) ?? (await fetch(this.id));
  }

  /** What waits when the page goes is sent with no answer to wait for. */
  private sendAll = () => {
    for (const { edit, base } of this.waiting.splice(0)) {
      if (!edit) continue;
      void fetch(`${this.kind.path(this.id)}${base === undefined ? "" : `?revision=${base}`}`, {
        method: "PATCH",
        ...lasting(edit),
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(edit),
      });
    }
  };

  /** The document with all that is not saved yet, also where the screen cannot show it. */
  private wanted(): T | undefined {
    return this.saved && this.overlaid(this.saved, this.kind.patched);
  }

  private now(): T | undefined {
    return this.queries.getQueryData<T>([this.kind.key, this.id]);
  }

  /** The newest revision that is on screen. */
  private known(): number | undefined {
    return this.now()?.revision;
  }

  /** Keeps an answer, and returns it with all pending edits. */
  private arrived(answer: T): T {
    this.saved = answer;
    return this.overlaid(answer, this.kind.shown);
  }

  private overlaid(saved: T, by: (kept: T, patch: Patch) => T): T {
    return [this.sending, ...this.waiting].reduce(
      (kept, order) => (order?.edit ? by(kept, order.edit.patch) : kept),
      saved,
    );
  }

  private burstOf(what: string): string {
    const now = performance.now();
    if (what !== this.burst.what || now - this.burst.at > BURST_MS) this.burst.number += 1;
    this.burst = { ...this.burst, what, at: now };
    return `${SESSION}.${this.burst.number}`;
  }

  private setError = (error: Error | null) => {
    if (error === this.error) return;
    this.error = error;
    for (const listener of this.listeners) listener();
  };
}

/** Distinguishes the bursts of one page from those of another. */
const SESSION = Math.random().toString(36).slice(2, 10);

const passed =
  <T>(resolve: (kept: T) => void) =>
  (kept: T) => {
    resolve(kept);
    return kept;
  };

const thrown = (reject: (error: unknown) => void) => (error: unknown) => {
  reject(error);
  throw error;
};
