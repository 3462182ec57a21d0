import { useQuery } from "@tanstack/react-query";
import { TriangleAlert } from "lucide-react";
import type { Shot } from "../../../api/client";
import { sourceQuery } from "../../../api/queries";
import type { Edit } from "../edit";

/** The button that turns a mesh upright, beside the picture of one that seems to be on its side. */
export function OnItsSide({ shot, edit }: { shot: Shot; edit: Edit }) {
  const { data } = useQuery(sourceQuery(shot));
  const finding = data?.findings.find((one) => one.name === "on-its-side");
  if (!finding) return null;
  return (
    <div
      className="absolute left-2 top-2 z-10 flex items-center gap-2 rounded-box bg-black/70 px-2 py-1 text-small text-white"
      data-testid="on-its-side"
    >
      <TriangleAlert size={15} className="shrink-0 text-[#ffc46b]" aria-hidden />
      Is it on its side?
      {finding.fixes.map((fix) => (
        <button
          key={fix.label}
          type="button"
          className="btn btn-xs"
          onPointerDown={(event) => event.stopPropagation()}
          onClick={() => edit(fix.patch, `“${fix.label}”`)}
        >
          {fix.label}
        </button>
      ))}
    </div>
  );
}
