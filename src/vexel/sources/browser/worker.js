// What a worker of a captured page gets before any of its own scripts: the page's clock, moved by exact steps.
(() => {
  if (self.__vexelWorker) return;
  const EPOCH = 1767225600000;
  const MAX_TASKS = 20000;
  let now = 0;
  let turn = 0;
  let handles = 1;
  let tasks = [];
  const replace = (object, name, value) =>
    Object.defineProperty(object, name, { value, configurable: true, writable: true });
  const RealDate = self.Date;
  class VirtualDate extends RealDate {
    constructor(...given) {
      if (given.length === 0) super(EPOCH + now);
      else super(...given);
    }
    static now() {
      return Math.floor(EPOCH + now);
    }
  }
  self.Date = new Proxy(VirtualDate, { apply: () => new VirtualDate().toString() });
  VirtualDate.prototype.constructor = self.Date;
  replace(Performance.prototype, "now", () => now);
  const later = (work, delay, given, every) => {
    const wait = Math.max(Number(delay) || 0, every ? 1 : 0);
    tasks.push({ handle: handles, due: now + wait, turn: turn++, work, given, every: every ? wait : null });
    return handles++;
  };
  const drop = (handle) => {
    tasks = tasks.filter((task) => task.handle !== handle);
  };
  replace(self, "setTimeout", (work, delay, ...given) => later(work, delay, given, false));
  replace(self, "setInterval", (work, delay, ...given) => later(work, delay, given, true));
  replace(self, "clearTimeout", drop);
  replace(self, "clearInterval", drop);
  const frame = self.requestAnimationFrame?.bind(self);
  if (frame) replace(self, "requestAnimationFrame", (work) => frame(() => work(now)));
  let state = 0x5eed;
  Math.random = () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  self.__vexelWorker = {
    // All that is due until then, each with the microtasks that it leads to.
    tick: async (until) => {
      for (let count = 0; count < MAX_TASKS; count++) {
        let next = null;
        for (const task of tasks)
          if (task.due <= until && (!next || task.due < next.due || (task.due === next.due && task.turn < next.turn)))
            next = task;
        if (!next) break;
        now = Math.max(now, next.due);
        if (next.every === null) drop(next.handle);
        else Object.assign(next, { due: next.due + next.every, turn: turn++ });
        try {
          if (typeof next.work === "function") next.work(...next.given);
          else (0, eval)(String(next.work));
        } catch (error) {
          self.reportError?.(error);
        }
        for (let k = 0; k < 8; k++) await null;
      }
      now = until;
    },
  };
})();
