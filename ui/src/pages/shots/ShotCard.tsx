import { useMutation, useQueryClient } from "@tanstack/react-query";
import { CirclePlay, CopyPlus, EyeOff } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { body, client, type Schemas, type ShotLine } from "../../api/client";
import { shotsQuery } from "../../api/shotListQuery";
import { useTurn } from "../../parts/around/turns";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count, when } from "../../parts/format";
import type { ToastMessage } from "../../parts/shell/Toast";

export function ShotCard({
  line,
  onMessage,
}: {
  line: ShotLine;
  onMessage: (message: ToastMessage) => void;
}) {
  const queries = useQueryClient();
  const path = { params: { path: { shot_id: line.id } } };
  const keep = (lines: Schemas["ShotLines"]) => queries.setQueryData(shotsQuery.queryKey, lines);
  const restore = useMutation({
    mutationFn: (name: string) =>
      body(client.POST("/api/removed/{name}/restore", { params: { path: { name } } })),
    onSuccess: keep,
  });
  const remove = useMutation({
    mutationFn: () => body(client.DELETE("/api/shots/{shot_id}", path)),
    onSuccess: (lines) => {
      keep(lines);
      const put = { label: "Undo", onAct: () => restore.mutate(lines.removed) };
      onMessage({
        words: `“${line.title}” is hidden; its takes and files are kept.`,
        act: put,
      });
    },
  });
  const copy = useMutation({
    mutationFn: () => body(client.POST("/api/shots/{shot_id}/copies", path)),
    onSuccess: keep,
  });
  return (
    <li className="group relative overflow-hidden rounded-box border rule bg-base-100 hover:border-primary">
      <Link to={line.id ? `/shots/${line.id}` : "/"} className="block" data-testid="shot">
        <div className="well flex aspect-video items-center justify-center">
          {line.error ? (
            <span className="m-4 rounded bg-black/60 px-2 py-1 text-center text-small text-white">
              No picture while the document has errors
            </span>
          ) : (
            <Glance line={line} />
          )}
        </div>
        <div className={line.error ? "p-3 pb-10" : "p-3"}>
          <div className="truncate text-base font-semibold">{line.title}</div>
          {line.error ? (
            <ErrorAlert error={line.error} />
          ) : (
            <>
              <div className="figures text-small">{line.summary}</div>
              <div className="quiet mt-0.5 flex gap-2 text-small">
                <span>{line.size}</span>·<span className="truncate">{line.file}</span>·
                <span className="whitespace-nowrap">
                  {line.runs ? count(line.runs, "run") : "not captured yet"}
                </span>
              </div>
              <div className="quiet text-note">edited {when(line.edited)}</div>
            </>
          )}
        </div>
      </Link>
      <div className="absolute bottom-2 right-2 flex gap-1">
        {line.output !== null && (
          <Link to={`/files/${line.output}`} className="btn btn-ghost btn-xs" title="Play the newest file">
            <CirclePlay size={15} aria-hidden /> Play
          </Link>
        )}
        {line.error && line.id && (
          <a
            className="btn btn-ghost btn-xs"
            href={`/api/shots/${line.id}/text`}
            target="_blank"
            rel="noreferrer"
          >
            Open the file
          </a>
        )}
        {!line.error && (
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label={`Duplicate ${line.title}`}
            title="Duplicate"
            disabled={copy.isPending}
            onClick={() => copy.mutate()}
          >
            <CopyPlus size={15} aria-hidden />
          </button>
        )}
        {line.id && (
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label={`Hide ${line.title}`}
            title="Hide: takes and files are kept"
            disabled={remove.isPending}
            onClick={() => remove.mutate()}
          >
            <EyeOff size={15} aria-hidden />
          </button>
        )}
      </div>
    </li>
  );
}

function Glance({ line }: { line: ShotLine }) {
  const address = `/api/shots/${line.id}/view?frame=${line.glance}&width=400&height=225&samples=4&glance=1&revision=${line.revision}`;
  const [turn, done] = useTurn();
  const [state, setState] = useState<"loading" | "shown" | "broken">("loading");
  return (
    <>
      {state === "loading" && <span className="loading loading-dots text-white" />}
      {state === "broken" && (
        <span className="m-4 rounded bg-black/60 px-2 py-1 text-center text-small text-white">
          The source gives no picture; open the shot to see why
        </span>
      )}
      {turn && (
        <img
          src={address}
          alt={`A frame of ${line.title}`}
          className={state === "shown" ? "max-h-full max-w-full" : "hidden"}
          onLoad={() => {
            setState("shown");
            done();
          }}
          onError={() => {
            setState("broken");
            done();
          }}
        />
      )}
    </>
  );
}
