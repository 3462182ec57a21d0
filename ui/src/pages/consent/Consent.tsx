import { useQuery } from "@tanstack/react-query";
import { ShieldQuestion } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { consentQuery } from "../../api/queries";
import { count } from "../../parts/format";

const Review = lazy(async () => ({ default: (await import("./Review")).Review }));

/** The banner of a project, or a part of one, that you received: its code does not run until you have reviewed it. */
export function Consent() {
  const { data } = useQuery(consentQuery);
  const [asking, setAsking] = useState(false);
  if (!data || data.unseen.length === 0) return null;
  return (
    <>
      <div
        role="status"
        data-testid="from-elsewhere"
        className="flex shrink-0 items-center gap-3 border-b border-warning bg-warning/15 px-4 py-1.5 text-small"
      >
        <ShieldQuestion size={17} className="shrink-0 text-warning" aria-hidden />
        <span className="min-w-0 flex-1">
          {data.own ? "You received part of this project." : "You received this project."} Code of{" "}
          <b>{count(data.unseen.length, "source")}</b> will not run until you have reviewed it.
        </span>
        <button type="button" className="btn btn-sm" onClick={() => setAsking(true)}>
          Review the code
        </button>
      </div>
      {asking && (
        <Suspense>
          <Review consent={data} onClose={() => setAsking(false)} />
        </Suspense>
      )}
    </>
  );
}
