import { type EffectCallback, useEffect, useEffectEvent } from "react";

/**
 * Calls a function on mount and after a value has changed. Other values that the function reads are current, and their
 * changes do not call it. It may return a cleanup function.
 */
export function useChange<T extends string | number | boolean | undefined | null>(
  of: T,
  act: (of: T) => ReturnType<EffectCallback>,
) {
  const acted = useEffectEvent(act);
  useEffect(() => acted(of), [of]);
}
