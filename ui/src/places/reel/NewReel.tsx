import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { body, client } from "../../api/client";
import { runsQuery } from "../../api/queries";
import { Complaint } from "../../parts/Complaint";
import { reelsQuery } from "./queries";

/** Begins a reel with the newest take, so that it has its size and rate. */
export function NewReel({ small = false }: { small?: boolean }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data } = useQuery(runsQuery);
  const newest = data?.runs.find((run) => run.made + run.kept === run.count && run.count > 0);
  const make = useMutation({
    mutationFn: () =>
      body(client.POST("/api/reels", { body: { title: "Reel", runs: newest ? [newest.id] : [] } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: reelsQuery.queryKey });
      navigate(`/reels/${made.id}`);
    },
  });
  return (
    <>
      <button
        type="button"
        className={small ? "btn btn-ghost btn-sm" : "btn btn-primary"}
        disabled={make.isPending}
        onClick={() => make.mutate()}
      >
        New reel
      </button>
      <Complaint error={make.error} />
    </>
  );
}
