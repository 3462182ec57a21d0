import { useEffect, useState } from "react";

const REST_MS = 1500;

/** Whether nothing was edited for a while, so that a costly question disturbs no drag. */
export function useRested(revision: number): boolean {
  const [rested, setRested] = useState<number | null>(null);
  useEffect(() => {
    const rest = setTimeout(() => setRested(revision), REST_MS);
    return () => clearTimeout(rest);
  }, [revision]);
  return rested === revision;
}
