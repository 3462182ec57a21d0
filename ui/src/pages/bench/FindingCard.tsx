import { TriangleAlert } from "lucide-react";
import { Link } from "react-router";
import type { Finding } from "../../api/client";
import { CopyButton } from "../../parts/CopyButton";
import { useGuideLink } from "../../parts/hooks/useGuideLink";
import type { Edit } from "./edit";

interface Props {
  finding: Finding;
  edit: Edit;
}

/** A finding: what, what it costs, and a button for each fix. */
export function FindingCard({ finding, edit }: Props) {
  const to = useGuideLink();
  return (
    <li className="rounded-box border border-warning/70 p-2.5 text-small">
      <div className="flex gap-2">
        <TriangleAlert size={16} className="mt-0.5 shrink-0 text-warning" aria-hidden />
        <span>
          <b>{finding.what}.</b> {finding.cost}{" "}
          <Link
            to={to("findings", finding.name)}
            className="link whitespace-nowrap text-note"
            aria-label={`More about this finding: ${finding.what}`}
          >
            more
          </Link>
        </span>
      </div>
      <div className="mt-2 flex flex-wrap gap-1.5">
        {finding.fixes.map((fix) =>
          fix.place ? (
            <Link key={fix.label} to={`/${fix.place}`} className="btn btn-outline btn-primary btn-xs">
              {fix.label}
            </Link>
          ) : fix.command ? (
            <CopyButton
              key={fix.label}
              text={fix.command}
              name={fix.command}
              label={`${fix.label}: copy the command`}
            />
          ) : (
            <button
              key={fix.label}
              type="button"
              className="btn btn-outline btn-primary btn-xs"
              onClick={() => edit(fix.patch, `“${fix.label}”`)}
            >
              {fix.label}
            </button>
          ),
        )}
      </div>
    </li>
  );
}
