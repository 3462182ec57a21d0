import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { body, client, type Run, type Schemas } from "../../api/client";
import { upload } from "../../api/upload";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { ChooseTakes } from "./ChooseTakes";
import { reelsQuery } from "./queries";

/** Begins a reel with the takes that are chosen, or from a timeline of another program. */
export function NewReel({ small = false }: { small?: boolean }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const make = useMutation({
    mutationFn: (runs: Run[]) =>
      body(
        client.POST("/api/reels", {
          body: { title: runs[0] ? `Reel of ${runs[0].title}` : "Reel", runs: runs.map((run) => run.id) },
        }),
      ),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: reelsQuery.queryKey });
      setAsking(false);
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
        onClick={() => setAsking(true)}
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
      <ErrorAlert error={read.error} />
      {asking && (
        <ChooseTakes
          pending={make.isPending}
          error={make.error}
          onChoose={(runs) => make.mutate(runs)}
          onClose={() => setAsking(false)}
        />
      )}
    </>
  );
}
