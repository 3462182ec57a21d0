import { PlugZap } from "lucide-react";
import { useEffect } from "react";

/** Appears over every page while the server does not answer; figures are greyed, since they may be out of date. */
export function ServerLost() {
  useEffect(() => {
    document.documentElement.toggleAttribute("data-lost", true);
    return () => {
      document.documentElement.toggleAttribute("data-lost", false);
    };
  }, []);
  return (
    <div
      role="alert"
      data-testid="server-lost"
      className="pointer-events-none absolute inset-x-0 top-12 z-50 flex justify-center"
    >
      <p className="flex items-center gap-2 rounded-box border border-error bg-base-100 px-4 py-2 shadow">
        <PlugZap size={17} className="shrink-0 text-error" aria-hidden />
        Vexel does not answer. Figures may be out of date; finished frames are kept. This page reconnects by
        itself.
      </p>
    </div>
  );
}
