import { type ComponentType, lazy, useMemo } from "react";

/** Code of a component that comes later. */
export interface Part {
  load: () => Promise<void>;
  shown: () => ComponentType;
}

/** All of them, in the order in which they are loaded. */
export const LATER: Part[] = [];

/** A component of a module, by its name. */
export function later<K extends string>(bring: () => Promise<{ [name in K]: ComponentType }>, name: K): Part {
  const waiting = lazy<ComponentType>(async () => ({ default: (await bring())[name] }));
  let brought: ComponentType | null = null;
  const part: Part = {
    shown: () => brought ?? waiting,
    /** Code that cannot be had now is asked for again when it is shown. */
    load: () =>
      bring().then(
        (module) => {
          brought = module[name];
        },
        () => undefined,
      ),
  };
  LATER.push(part);
  return part;
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
