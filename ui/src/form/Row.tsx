import type { ReactNode } from "react";

/** A name, a control and a unit, in the sheets' one alignment. */
export function Row({
  name,
  unit,
  hint,
  children,
}: {
  name: string;
  unit?: string;
  hint?: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="mb-2.5">
      <div className="flex items-center gap-2">
        <span className="w-name shrink-0 text-small">{name}</span>
        {/* What does not fit beside the rest goes below it, and not beyond the sheet's edge. */}
        <div className="flex min-w-0 flex-1 flex-wrap items-center gap-2">
          {children}
          {unit && <span className="quiet text-small">{unit}</span>}
        </div>
      </div>
      {hint && <p className="quiet mt-0.5 pl-label text-note leading-snug">{hint}</p>}
    </div>
  );
}
