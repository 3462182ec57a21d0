import type { ReactNode } from "react";
import { useDetails } from "./hooks/useDetails";

/** A part of a sheet under its heading; closed at first unless details are shown. */
export function Fold({ heading, children }: { heading: string; children: ReactNode }) {
  const details = useDetails();
  return (
    <details key={String(details)} open={details} className="mt-3 border-t rule pt-2">
      <summary className="mb-1.5 cursor-pointer text-small font-semibold">{heading}</summary>
      {children}
    </details>
  );
}
