import type { ReactNode } from "react";

/** A page's heading, and below it what the page is for. */
export function PageHead({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="mb-2">
      <h1 className="text-2xl font-semibold">{title}</h1>
      <p className="quiet text-small">{children}</p>
    </div>
  );
}
