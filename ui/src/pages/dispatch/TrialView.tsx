import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { body, client, type Run } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { size } from "../../parts/format";
import type { FullRecipe, RecipeDocument } from "./draft";
import { askTrial, keyOf, type Subject } from "./subject";

interface Props {
  subject: Subject;
  recipe: FullRecipe;
  document: RecipeDocument;
}

/** The captured frame beside the same frame in the file, with the expected size of the file. */
export function TrialView({ subject, recipe, document }: Props) {
  const { frames } = subject;
  const [frame, setFrame] = useState(Math.floor(frames / 2));
  const [share, setShare] = useState(50);
  const queries = useQueryClient();
  const queryKey = ["trial", keyOf(subject), frame, document];
  const { data, error, isFetching, isPlaceholderData, refetch } = useQuery({
    queryKey,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => askTrial(subject, document, frame, signal),
  });
  return (
    <section aria-label="Trial" data-testid="trial">
      <div
        className="well relative overflow-hidden rounded-box"
        style={{ aspectRatio: data ? `${data.width} / ${data.height}` : "16 / 9" }}
      >
        {data && (
          <>
            <img
              src={data.made}
              alt="The frame as captured"
              className="well-checks absolute inset-0 size-full"
            />
            <img
              src={data.found}
              alt="The frame as the file shows it"
              className="well-checks absolute inset-0 size-full"
              style={{ clipPath: `inset(0 0 0 ${share}%)` }}
            />
            <span className="absolute inset-y-0 w-px bg-base-100" style={{ left: `${share}%` }} aria-hidden />
            <span className="absolute left-1.5 top-1 rounded bg-black/60 px-1.5 text-note text-white">
              frame
            </span>
            <span className="absolute right-1.5 top-1 rounded bg-black/60 px-1.5 text-note text-white">
              file
            </span>
          </>
        )}
      </div>
      <input
        type="range"
        className="range range-xs [--range-fill:0] my-1.5 h-6 w-full"
        aria-label="Where the frame ends and the file begins"
        min={0}
        max={100}
        value={share}
        onChange={(event) => setShare(Number(event.target.value))}
      />
      <label className="flex items-center gap-2 text-note">
        <span className="quiet">frame</span>
        <input
          type="range"
          className="range range-xs [--range-fill:0] h-6 flex-1"
          aria-label="Frame of the trial"
          min={0}
          max={frames - 1}
          defaultValue={frame}
          onPointerUp={(event) => setFrame(Number(event.currentTarget.value))}
          onKeyUp={(event) => setFrame(Number(event.currentTarget.value))}
        />
        <span className="figures w-10 text-right">{frame}</span>
      </label>
      {error ? (
        <ErrorAlert error={error} />
      ) : (
        <p className="figures mt-1 text-small" aria-busy={isFetching}>
          {data ? (
            <>
              {document.quality?.at_most && !data.fitted ? "without the limit about " : "about "}
              <b>{size(data.bytes)}</b> · {data.width} × {data.height} · {data.pictures} pictures ·{" "}
              {recipe.scale || document.codec === "gif"
                ? `PSNR ${data.psnr.toFixed(1)} dB · SSIM ${data.ssim.toFixed(4)}`
                : "no loss"}
            </>
          ) : isFetching ? (
            "Encoding a stretch…"
          ) : (
            "Stopped."
          )}
        </p>
      )}
      <div className="mt-1 flex min-h-7 items-center gap-2 text-note" role="status">
        {isFetching ? (
          <>
            {data && "Encoding a stretch with these settings…"}
            <button
              type="button"
              className="btn btn-xs"
              onClick={() => void queries.cancelQueries({ queryKey })}
            >
              Stop
            </button>
          </>
        ) : (
          (!data || isPlaceholderData) &&
          !error && (
            <button type="button" className="btn btn-xs" onClick={() => void refetch()}>
              Try it
            </button>
          )
        )}
      </div>
      {data?.fitted && (
        <p className="mt-1 text-small" data-testid="fitted">
          {data.fitted}.
        </p>
      )}
      {data && (
        <p className="quiet text-note">
          Measured on {data.tried} frames.{data.notes.map((note) => ` ${note}.`)}
        </p>
      )}
      {data?.retimed && (
        <Retimed
          take={subject.of === "take" ? subject.run : null}
          document={document}
          said={data.retimed}
          can={data.renewable}
        />
      )}
    </section>
  );
}

/** The effect of another rate on the frames, and a button that makes a shot at that rate. */
function Retimed({
  take,
  document,
  said,
  can,
}: {
  take: Run | null;
  document: RecipeDocument;
  said: string;
  can: boolean;
}) {
  const navigate = useNavigate();
  const rate = document.timing?.rate ?? "";
  const anew = useMutation({
    mutationFn: () =>
      body(
        client.POST("/api/runs/{run_id}/at-rate", {
          params: { path: { run_id: take?.id ?? 0 } },
          body: { rate },
        }),
      ),
    onSuccess: ({ id }) => navigate(`/shots/${id}`),
  });
  return (
    <div className="mt-1 rounded-box border border-warning p-2 text-small">
      <p>
        {said[0]?.toUpperCase() + said.slice(1)}.
        {can && " The source is made frame by frame, so it can be captured at that rate instead."}
      </p>
      {can && take && (
        <button
          type="button"
          className="btn btn-xs mt-1"
          disabled={anew.isPending}
          onClick={() => anew.mutate()}
        >
          New shot at {rate} fps
        </button>
      )}
      <ErrorAlert error={anew.error} />
    </div>
  );
}
