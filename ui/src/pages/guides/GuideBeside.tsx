import { Maximize2 } from "lucide-react";
import { useEffect, useRef } from "react";
import { Link, useNavigate } from "react-router";
import { CloseButton } from "../../parts/CloseButton";
import { useGuideLink } from "../../parts/hooks/useGuideLink";
import { GuideText } from "./GuideText";

/** A guide beside the page from which it was opened; the page does not change. */
export function GuideBeside({ of }: { of: string }) {
  const [name, anchor = ""] = of.split(".");
  const to = useGuideLink();
  const navigate = useNavigate();
  const aside = useRef<HTMLElement>(null);
  useEffect(() => {
    if (of) aside.current?.focus();
  }, [of]);
  return (
    <aside
      ref={aside}
      tabIndex={-1}
      aria-label="Guide"
      data-testid="guide-beside"
      className="flex w-[400px] max-w-full shrink-0 flex-col border-l rule bg-base-100 outline-none max-lg:absolute max-lg:inset-y-0 max-lg:right-0 max-lg:z-40 max-lg:shadow-lg"
    >
      <header className="flex items-center border-b rule px-3 py-1.5">
        <h2 className="flex-1 text-base font-semibold">Guide</h2>
        <Link
          to={`/guides/${name}${anchor && `#${anchor}`}`}
          className="btn btn-ghost btn-sm btn-square"
          aria-label="Open as a page"
          title="Open as a page"
        >
          <Maximize2 size={15} aria-hidden />
        </Link>
        <CloseButton label="Close the guide" onClick={() => navigate(to(""))} />
      </header>
      <div className="min-h-0 flex-1 overflow-auto p-4">
        <GuideText name={name} anchor={anchor} beside to={to} />
      </div>
    </aside>
  );
}
