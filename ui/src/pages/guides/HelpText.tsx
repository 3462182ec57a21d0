import { Link } from "react-router";
import { useGuideLink } from "../../parts/hooks/useGuideLink";
import { GUIDES } from "./guides";
import { Shortcuts } from "./Shortcuts";

/** What the help dialog holds: the guides, and all shortcuts. */
export function HelpText({ onLeave }: { onLeave: () => void }) {
  const to = useGuideLink();
  return (
    <>
      <nav aria-label="Guides" className="mb-4 flex flex-wrap gap-2">
        {GUIDES.map((guide) => (
          <Link key={guide.name} to={to(guide.name)} className="btn btn-sm font-normal" onClick={onLeave}>
            {guide.title}
          </Link>
        ))}
      </nav>
      <Shortcuts />
    </>
  );
}
