import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { body, client, type Output } from "../../api/client";
import { outputsQuery } from "../../api/fileQueries";
import { OutputLine } from "../runs/OutputLine";

/** Files that are listed before all are asked for. */
const FIRST = 2;

/** The files that were made, newest first, each with its receipt. */
export function SentFiles() {
  const { data } = useQuery(outputsQuery);
  const files = data?.outputs ?? [];
  const [all, setAll] = useState(false);
  if (files.length === 0) return null;
  return (
    <section aria-label="Files" className="mt-5" data-testid="sent">
      <h2 className="mb-1 font-semibold">Files</h2>
      <ul className="rounded-box border rule bg-base-100 px-3">
        {files.slice(0, all ? 100 : FIRST).map((file) => (
          <SentFile key={file.id} file={file} />
        ))}
      </ul>
      {!all && files.length > FIRST && (
        <button type="button" className="link mt-1 text-small" onClick={() => setAll(true)}>
          Show all {files.length} files
        </button>
      )}
    </section>
  );
}

function SentFile({ file }: { file: Output }) {
  const [open, setOpen] = useState(false);
  const queries = useQueryClient();
  const fit = useMutation({
    mutationFn: (which: number) =>
      body(
        client.POST("/api/outputs/{output_id}/fits/{which}", {
          params: { path: { output_id: file.id, which } },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: outputsQuery.queryKey }),
  });
  const wrong = file.receipt?.checks.filter((check) => !check.holds) ?? [];
  return (
    <OutputLine output={file}>
      {file.fits.length > 0 && (
        <div className="flex flex-wrap gap-1.5 pt-1.5">
          {file.fits.map((label, which) => (
            <button
              key={label}
              type="button"
              className="btn btn-xs"
              disabled={fit.isPending}
              onClick={() => fit.mutate(which)}
            >
              Make it {label}
            </button>
          ))}
        </div>
      )}
      {file.receipt && (
        <div className="text-note">
          <button
            type="button"
            className="flex w-full items-center gap-1.5 text-left"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {wrong.length === 0 ? (
              <Check size={14} className="text-primary" aria-hidden />
            ) : (
              <TriangleAlert size={14} className="text-error" aria-hidden />
            )}
            {wrong.length === 0
              ? `proven: ${file.receipt.checks
                  .map((check) => `${check.what} ${check.found}`)
                  .slice(0, 4)
                  .join(" · ")}`
              : wrong.map((check) => `${check.what} is ${check.found}, planned ${check.planned}`).join("; ")}
          </button>
          {open && (
            <dl className="figures mt-1 grid grid-cols-[8rem_1fr] gap-x-3 gap-y-0.5 pl-5">
              {file.receipt.checks.map((check) => (
                <div key={check.what} className="contents">
                  <dt className="quiet font-sans">{check.what}</dt>
                  <dd className={check.holds ? "" : "font-semibold text-error"}>
                    {check.found}
                    {check.planned && check.planned !== check.found && (
                      <span className="quiet"> (planned {check.planned})</span>
                    )}
                  </dd>
                </div>
              ))}
              {file.receipt.notes.map((note) => (
                <dd key={note} className="quiet col-span-2 font-sans">
                  {note}
                </dd>
              ))}
            </dl>
          )}
        </div>
      )}
    </OutputLine>
  );
}
