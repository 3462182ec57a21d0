import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2, Upload } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { body, client } from "../../api/client";
import { upload } from "../../api/upload";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { when } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";
import { type Other, reviewableQuery } from "./queries";
import { Tool } from "./Transport";

const GROUPS: { kind: Other["kind"]; label: string }[] = [
  { kind: "take", label: "Takes" },
  { kind: "file", label: "Files" },
  { kind: "reel", label: "Reels" },
  { kind: "import", label: "From elsewhere" },
];

/** All that can be reviewed, the newest first. */
export function ReviewList() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data, error } = useQuery(reviewableQuery);
  const [dragging, setDragging] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const bring = useMutation({
    mutationFn: (files: File[]) => upload<{ name: string }>("/api/reviews", files),
    onSuccess: ({ name }) => {
      void queries.invalidateQueries({ queryKey: reviewableQuery.queryKey });
      void navigate(`/review/import/${name}`);
    },
  });
  const remove = useMutation({
    mutationFn: (name: string) =>
      body(client.DELETE("/api/reviews/import/{name}", { params: { path: { name } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: reviewableQuery.queryKey }),
  });
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: files are dropped on it, which the button offers by keyboard
    <div
      className={`mx-auto min-h-full max-w-4xl px-6 py-4 max-sm:px-3 ${dragging ? "bg-base-300" : ""}`}
      data-testid="reviewable"
      onDragOver={(event) => {
        event.preventDefault();
        setDragging(event.dataTransfer.types.includes("Files"));
      }}
      onDragLeave={() => setDragging(false)}
      onDrop={(event) => {
        event.preventDefault();
        setDragging(false);
        const files = [...event.dataTransfer.files];
        if (files.length > 0) bring.mutate(files);
      }}
    >
      <button
        type="button"
        className="btn btn-sm float-right font-normal"
        disabled={bring.isPending}
        onClick={() => chooser.current?.click()}
      >
        <Upload size={15} aria-hidden /> {bring.isPending ? "Opening…" : "Open files"}
      </button>
      <input
        ref={chooser}
        type="file"
        multiple
        hidden
        data-testid="chooser"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length > 0) bring.mutate(files);
        }}
      />
      <PageHead title="Review">
        Frame by frame: what was captured and what was compiled, alone or against another one. Drop a video or
        numbered images here to look at them too.
      </PageHead>
      {(error || bring.error || remove.error) && <ErrorAlert error={error || bring.error || remove.error} />}
      {!data && !error && <p className="quiet">Loading…</p>}
      {data?.others.length === 0 && (
        <p>
          Nothing has been captured yet.{" "}
          <Link to="/" className="link link-primary">
            Open a shot
          </Link>{" "}
          and capture it; its take appears here.
        </p>
      )}
      {GROUPS.map(({ kind, label }) => {
        const own = data?.others.filter((one) => one.kind === kind) ?? [];
        if (own.length === 0) return null;
        return (
          <section key={kind} className="mb-5" aria-label={label}>
            <h2 className="mb-1 font-semibold">{label}</h2>
            <ul className="rounded-box border rule bg-base-100">
              {own.map((one) => (
                <li key={one.name} className="flex items-center border-t rule first:border-t-0">
                  <Link
                    to={`/review/${one.kind}/${one.name}`}
                    className="flex min-w-0 flex-1 items-center gap-3 px-3 py-1.5 hover:bg-base-200"
                  >
                    {one.kind === "take" && (
                      <img
                        className="well h-9 w-16 shrink-0 rounded-sm object-contain"
                        src={`/api/reviews/take/${one.name}/frames/0?wide=160`}
                        alt=""
                        loading="lazy"
                      />
                    )}
                    <span className="min-w-0 flex-1 truncate">{one.title}</span>
                    <span className="quiet figures text-small">
                      {[one.about, when(one.created)].filter(Boolean).join(" · ")}
                    </span>
                  </Link>
                  {kind === "import" && (
                    <Tool label={`Delete ${one.title}`} onClick={() => remove.mutate(one.name)}>
                      <Trash2 size={14} aria-hidden />
                    </Tool>
                  )}
                </li>
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}
