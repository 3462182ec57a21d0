import type { QueryClient } from "@tanstack/react-query";
import { body, client, type Patch, Refusal, type Shot } from "./client";
import { composed, merged } from "./merge";

/** What a person wants of a shot: a patch that can be shown before it is saved, or an operation of the server. */
interface Order {
  send: (query: Based) => Promise<Shot>;
  /** The revision that was on screen when it was wanted. */
  base: number | undefined;
  patch?: Patch;
  what?: string;
  burst?: string;
}

/** The revision that an order was made from: what somebody else has changed since is not overwritten. */
export interface Based {
  revision?: number;
}

/** Edits of one thing that follow each other this closely are one burst, and one undo. */
const BURST_MS = 1000;

/**
 * The edits of one shot, in the order in which they were made. One is sent at a
 * time; those of a burst that wait are merged, and the screen shows the newest
 * wish at once. It outlives the page that made the edits, so that none is lost.
 */
export class Orders {
  private static readonly all = new Map<string, Orders>();
  private waiting: Order[] = [];
  private sending: Order | null = null;
  private serving = false;
  private readonly resting: (() => void)[] = [];
  private burst = { what: "", at: 0, number: 0 };
  private readonly listeners = new Set<() => void>();
  /** Why the last order was refused, until a later one succeeds. */
  error: Error | null = null;
  private refused: Order | null = null;

  static of(shotId: string, queries: QueryClient): Orders {
    let orders = Orders.all.get(shotId);
    if (!orders) {
      orders = new Orders(shotId, queries);
      Orders.all.set(shotId, orders);
    }
    return orders;
  }

  /** A shot as the server knows it, with all that is not saved yet. */
  static overlaid(shot: Shot): Shot {
    return Orders.all.get(shot.id)?.overlaid(shot) ?? shot;
  }

  private constructor(
    private readonly shotId: string,
    private readonly queries: QueryClient,
  ) {
    addEventListener("pagehide", this.sendAll);
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  dismiss = () => this.setError(null);

  edit = (patch: Patch, what: string) => {
    const burst = this.burstOf(what);
    const last = this.waiting[this.waiting.length - 1];
    if (last?.patch && last.burst === burst) {
      last.patch = composed(last.patch, patch);
    } else {
      const order: Order = {
        patch,
        what,
        burst,
        base: this.known(),
        send: (query) => this.save(order, query),
      };
      this.waiting.push(order);
    }
    const shot = this.queries.getQueryData<Shot>(["shot", this.shotId]);
    if (shot) this.show(shot, patch);
    void this.serve();
  };

  /** Sends an operation after all edits that were made before it. */
  put = (send: (query: Based) => Promise<Shot>): Promise<Shot> => {
    const answered = new Promise<Shot>((resolve, reject) => {
      this.waiting.push({
        base: this.known(),
        send: (query) => send(query).then(passed(resolve), thrown(reject)),
      });
    });
    // Whoever does not wait for the answer is told of a refusal by the banner.
    answered.catch(() => undefined);
    void this.serve();
    return answered;
  };

  /** Saves the edit that was refused since somebody else had changed the same, over theirs. */
  insist = () => {
    const refused = this.refused;
    this.refused = null;
    this.setError(null);
    if (refused?.patch) this.edit(refused.patch, refused.what ?? "");
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
    for (let order = this.waiting.shift(); order; order = this.waiting.shift()) {
      this.sending = order;
      try {
        const shot = await order.send({ revision: order.base });
        this.sending = null;
        // Those that were wanted meanwhile knew of this one.
        for (const later of this.waiting) later.base = shot.revision;
        // A look at the shot that was under way may be older than the answer.
        await this.queries.cancelQueries({ queryKey: ["shot", this.shotId], exact: true });
        this.queries.setQueryData(["shot", this.shotId], this.overlaid(shot));
        void this.queries.invalidateQueries({ queryKey: ["shots"] });
        this.setError(null);
      } catch (error) {
        this.sending = null;
        this.refused = error instanceof Refusal && error.stale ? order : null;
        this.setError(error as Error);
        await this.queries.refetchQueries({ queryKey: ["shot", this.shotId], exact: true });
      }
    }
    this.serving = false;
    for (const rested of this.resting.splice(0)) rested();
  }

  /** What waits when the page goes is sent with no answer to wait for. */
  private sendAll = () => {
    for (const { patch, what = "", burst = "", base } of this.waiting.splice(0)) {
      if (!patch) continue;
      void fetch(`/api/shots/${this.shotId}${base === undefined ? "" : `?revision=${base}`}`, {
        method: "PATCH",
        keepalive: true,
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify({ patch, what, burst }),
      });
    }
  };

  /** The newest revision that is on screen. */
  private known(): number | undefined {
    return this.queries.getQueryData<Shot>(["shot", this.shotId])?.revision;
  }

  private save(order: Order, query: Based): Promise<Shot> {
    return body(
      client.PATCH("/api/shots/{shot_id}", {
        params: { path: { shot_id: this.shotId }, query },
        body: { patch: order.patch ?? {}, what: order.what ?? "", burst: order.burst ?? "" },
      }),
    );
  }

  private overlaid(shot: Shot): Shot {
    const patch = [this.sending, ...this.waiting].reduce<Patch | undefined>(
      (all, order) => composed(all, order?.patch),
      undefined,
    );
    return patch ? { ...shot, document: merged(shot.document, patch), unsaved: patch } : shot;
  }

  private show(shot: Shot, patch: Patch) {
    this.queries.setQueryData(["shot", this.shotId], {
      ...shot,
      document: merged(shot.document, patch),
      unsaved: composed(shot.unsaved, patch),
    });
  }

  private burstOf(what: string): string {
    const now = performance.now();
    if (what !== this.burst.what || now - this.burst.at > BURST_MS) this.burst.number += 1;
    this.burst = { ...this.burst, what, at: now };
    return `${SESSION}.${this.burst.number}`;
  }

  private setError(error: Error | null) {
    if (error === this.error) return;
    this.error = error;
    for (const listener of this.listeners) listener();
  }
}

/** Tells the bursts of one page from those of another. */
const SESSION = Math.random().toString(36).slice(2, 10);

const passed = (resolve: (shot: Shot) => void) => (shot: Shot) => {
  resolve(shot);
  return shot;
};

const thrown = (reject: (error: unknown) => void) => (error: unknown) => {
  reject(error);
  throw error;
};
