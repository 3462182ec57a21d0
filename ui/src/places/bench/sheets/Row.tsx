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
        <span className="w-[76px] shrink-0 text-[13px]">{name}</span>
        {children}
        {unit && <span className="quiet text-[13px]">{unit}</span>}
      </div>
      {hint && <p className="quiet mt-0.5 pl-[84px] text-[12px] leading-snug">{hint}</p>}
    </div>
  );
}
