import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { body, client } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { reelsQuery } from "./queries";

type ReelLine = { id: string; title: string; error: string };

/** A reel whose file is no reel: why, and what can be done. */
export function UnreadableReel({ id, error, reels }: { id: string; error: Error; reels: ReelLine[] }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const remove = useMutation({
    mutationFn: () => body(client.DELETE("/api/reels/{reel_id}", { params: { path: { reel_id: id } } })),
    onSuccess: (lines) => {
      queries.setQueryData(reelsQuery.queryKey, lines);
      navigate("/reels");
    },
  });
  const others = reels.filter((one) => one.id !== id && !one.error);
  return (
    <div className="mx-auto flex max-w-2xl flex-col gap-3 p-8">
      <h1 className="text-xl font-semibold">{id}</h1>
      <ErrorAlert error={error} />
      <ErrorAlert error={remove.error} />
      <div className="flex gap-2">
        <a className="btn btn-sm btn-outline" href={`/api/reels/${id}/text`} target="_blank" rel="noreferrer">
          Open the file
        </a>
        <button
          type="button"
          className="btn btn-sm btn-outline"
          disabled={remove.isPending}
          onClick={() => remove.mutate()}
        >
          Remove from the list
        </button>
      </div>
      {others.length > 0 && (
        <section aria-label="Other reels">
          <h2 className="mb-1 text-base font-semibold">Other reels</h2>
          <ul className="list-disc pl-5">
            {others.map((one) => (
              <li key={one.id}>
                <Link to={`/reels/${one.id}`} className="link link-primary">
                  {one.title}
                </Link>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
