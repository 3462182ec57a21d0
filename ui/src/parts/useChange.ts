import { type EffectCallback, useEffect, useEffectEvent } from "react";

/**
 * Acts when a value has changed, and once at first. What else the act reads is as it is by then, and does not make it
 * act again; what it returns undoes it.
 */
export function useChange<T extends string | number | boolean | undefined | null>(
  of: T,
  act: (of: T) => ReturnType<EffectCallback>,
) {
  const acted = useEffectEvent(act);
  useEffect(() => acted(of), [of]);
}
