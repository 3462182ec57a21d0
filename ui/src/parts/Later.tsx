import { type ComponentType, lazy, useMemo } from "react";

/** Code of a component that comes later. */
export interface Part {
  load: () => Promise<void>;
  shown: () => ComponentType;
}

export function later(bring: () => Promise<{ default: ComponentType }>): Part {
  const waiting = lazy(bring);
  let brought: ComponentType | null = null;
  return {
    shown: () => brought ?? waiting,
    /** Code that cannot be had now is asked for again when it is shown. */
    load: () =>
      bring().then(
        (module) => {
          brought = module.default;
        },
        () => undefined,
      ),
  };
}

/**
 * A component whose code comes later; once that is loaded, it is drawn at once.
 *
 * `lazy` alone shows the placeholder even then, and React keeps one for 300 ms.
 */
export function Later({ part }: { part: Part }) {
  // It stays the same while it is shown: another one would lose its state.
  const Shown = useMemo(() => part.shown(), [part]);
  return <Shown />;
}
