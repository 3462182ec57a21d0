import { useQuery } from "@tanstack/react-query";
import { TriangleAlert } from "lucide-react";
import type { Shot } from "../../../api/client";
import { sourceQuery } from "../../../api/queries";
import { Dropdown } from "../../../parts/Dropdown";
import { count } from "../../../parts/format";
import type { Edit } from "../edit";
import { FindingCard } from "../FindingCard";
import { useFindings } from "../findings";

/** The number of findings, also while a sheet is open; a press lists them over it. */
export function FindingsButton({ shot, edit }: { shot: Shot; edit: Edit }) {
  const { data: source } = useQuery(sourceQuery(shot));
  const findings = useFindings(shot, source);
  if (findings.length === 0) return null;
  const label = count(findings.length, "finding");
  return (
    <Dropdown
      label={label}
      title={label}
      className="btn btn-sm px-2"
      summary={
        <span className="flex items-center gap-1" data-testid="finding-count">
          <TriangleAlert size={15} className="text-warning" aria-hidden /> {findings.length}
        </span>
      }
    >
      {() => (
        <ul className="dropdown-content z-40 mt-1 flex max-h-[60vh] w-96 max-w-[90vw] flex-col gap-2 overflow-auto rounded-box border rule bg-base-100 p-2 shadow-lg">
          {findings.map((finding) => (
            <FindingCard key={finding.name + finding.what} finding={finding} edit={edit} />
          ))}
        </ul>
      )}
    </Dropdown>
  );
}
