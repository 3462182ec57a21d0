import type { Schemas } from "../api/client";

/** What something is: names and values in two columns. */
export function Facts({ facts, className = "" }: { facts: Schemas["NamedValue"][]; className?: string }) {
  return (
    <dl className={`grid grid-cols-[76px_1fr] gap-x-2 gap-y-1 text-small ${className}`}>
      {facts.map((fact) => (
        <div key={fact.name} className="contents">
          <dt className="quiet">{fact.name}</dt>
          <dd className="figures break-words">{fact.value}</dd>
        </div>
      ))}
    </dl>
  );
}
