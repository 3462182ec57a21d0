import { useMutation, useQueryClient } from "@tanstack/react-query";
import { WandSparkles } from "lucide-react";
import { body, client, type Schemas, type Shot } from "../../api/client";
import { shotQuery } from "../../api/edits";
import { useOwnChange } from "../../api/sourceChanges";
import { ErrorAlert } from "../../parts/ErrorAlert";

interface Props {
  shot: Shot;
  proposal: Schemas["ProposalBody"];
  onDecline: () => void;
}

/** How a plain script becomes a source: the lines that would change, taken by one press. */
export function ScriptProposal({ shot, proposal, onDecline }: Props) {
  const queries = useQueryClient();
  const own = useOwnChange(shot.id);
  const take = useMutation({
    mutationFn: () =>
      own(() =>
        body(client.POST("/api/shots/{shot_id}/wrapped", { params: { path: { shot_id: shot.id } } })),
      ),
    onSuccess: (next) => {
      queries.setQueryData(shotQuery(shot.id).queryKey, next);
      void queries.invalidateQueries({ queryKey: ["code", shot.id] });
    },
  });
  if (!proposal.mark) {
    return (
      <p className="border-b rule p-3 text-small" data-testid="no-proposal">
        This is a plain script, and {proposal.notes.join(" ")}.
      </p>
    );
  }
  return (
    <section aria-label="Proposal" data-testid="proposal" className="flex min-h-0 flex-1 flex-col">
      <div className="p-3 pb-2 text-small">
        <p>
          <b>This is a plain script.</b> As a source it becomes a function marked{" "}
          <code className="figures">@{proposal.mark}</code>that is called for every frame:
        </p>
        <ul className="quiet mt-1 list-disc pl-4">
          {proposal.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      </div>
      <section
        className="figures min-h-0 flex-1 overflow-auto border-y rule bg-base-200 py-1 text-note leading-snug"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
        tabIndex={0}
        aria-label="Lines that change"
      >
        {proposal.lines.map((line, n) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: a line is its place
            key={n}
            className={`w-fit min-w-full whitespace-pre px-3 ${line.sign === "+" ? "bg-primary/15" : line.sign === "-" ? "bg-warning/20 line-through decoration-1" : ""}`}
          >
            {line.sign} {line.text}
          </div>
        ))}
      </section>
      <div className="flex items-center gap-2 p-2">
        <button
          type="button"
          className="btn btn-primary btn-sm"
          disabled={take.isPending}
          onClick={() => take.mutate()}
        >
          <WandSparkles size={15} aria-hidden /> Apply these changes
        </button>
        <button type="button" className="btn btn-sm" onClick={onDecline}>
          Edit it myself
        </button>
        <span className="quiet min-w-0 flex-1 truncate text-right text-note">written to {proposal.file}</span>
      </div>
      <ErrorAlert error={take.error} onClose={() => take.reset()} />
    </section>
  );
}
