import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Eye } from "lucide-react";
import { body, client, type Schemas } from "../../api/client";
import { shotsQuery } from "../../api/shotListQuery";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";

/** Shots that were taken off the list, each with the press that puts it back. */
export function HiddenShots({ hidden }: { hidden: Schemas["HiddenShot"][] }) {
  const queries = useQueryClient();
  const restore = useMutation({
    mutationFn: (name: string) =>
      body(client.POST("/api/removed/{name}/restore", { params: { path: { name } } })),
    onSuccess: (lines) => queries.setQueryData(shotsQuery.queryKey, lines),
  });
  return (
    <details className="mt-5" data-testid="hidden-shots">
      <summary className="quiet cursor-pointer text-small">{count(hidden.length, "hidden shot")}</summary>
      <ErrorAlert error={restore.error} onClose={() => restore.reset()} />
      <ul className="mt-2 max-w-xl rounded-box border rule bg-base-100 px-3">
        {hidden.map((shot) => (
          <li key={shot.name} className="flex items-center gap-2 border-b py-1 rule last:border-b-0">
            <span className="min-w-0 flex-1 truncate" title={shot.name}>
              {shot.title}
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-label={`Show again: ${shot.title}`}
              disabled={restore.isPending}
              onClick={() => restore.mutate(shot.name)}
            >
              <Eye size={14} aria-hidden /> Show again
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
