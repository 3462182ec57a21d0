import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { body, client, type Schemas } from "../../api/client";
import { runsQuery } from "../../api/queries";
import { upload } from "../../api/upload";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { reelsQuery } from "./queries";
import { isWhole } from "./reelItems";

/** Begins a reel with the newest take, so that it has its size and rate. */
export function NewReel({ small = false }: { small?: boolean }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data } = useQuery(runsQuery);
  const newest = data?.runs.find(isWhole);
  const make = useMutation({
    mutationFn: () =>
      body(client.POST("/api/reels", { body: { title: "Reel", runs: newest ? [newest.id] : [] } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: reelsQuery.queryKey });
      navigate(`/reels/${made.id}`);
    },
  });
  const read = useMutation({
    mutationFn: (files: File[]) => upload<Schemas["ReelOfTimeline"]>("/api/reels/timelines", files),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: reelsQuery.queryKey });
      navigate(`/reels/${made.id}`, { state: { notes: made.notes } });
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
      <label
        className={small ? "btn btn-ghost btn-sm" : "btn ml-2"}
        title="An OpenTimelineIO file. Skipped items are listed."
      >
        From a timeline
        <input
          type="file"
          accept=".otio"
          className="sr-only"
          data-testid="timeline"
          onChange={(event) => {
            if (event.target.files?.length) read.mutate([...event.target.files]);
            event.target.value = "";
          }}
        />
      </label>
      <ErrorAlert error={make.error ?? read.error} />
    </>
  );
}
