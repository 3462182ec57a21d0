import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, FileUp } from "lucide-react";
import { useRef } from "react";
import { body, client, type Schemas } from "../../api/client";
import { upload } from "../../api/upload";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { notesQuery, type Of } from "./queries";

/** The review page: made, sent to a colleague, and imported when it comes back. */
export function PageMenu({ of }: { of: Of }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const { kind, name, pass } = of;
  const params = { path: { kind, name }, query: { camera_pass: pass } };
  const key = ["figures", "page", kind, name, pass];
  const { data } = useQuery({
    queryKey: key,
    retry: false,
    queryFn: () => body(client.GET("/api/reviews/{kind}/{name}/page", { params })),
    refetchInterval: (query) =>
      query.state.data && ["queued", "running"].includes(query.state.data.state) ? 1000 : false,
  });
  const make = useMutation({
    mutationFn: () => body(client.POST("/api/reviews/{kind}/{name}/page", { params })),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const merge = useMutation({
    mutationFn: (file: File) =>
      upload<Schemas["MergedBody"]>(`/api/reviews/${kind}/${name}/notes/import?camera_pass=${pass}`, [file]),
    onSuccess: () => queries.invalidateQueries({ queryKey: notesQuery(of).queryKey }),
  });
  const going = data && (data.state === "queued" || data.state === "running");
  const progress = data?.progress;
  return (
    <section className="flex flex-wrap items-center gap-1.5" aria-label="Review page" data-testid="page-menu">
      {data?.state === "done" ? (
        <a
          className="btn btn-xs font-normal"
          href={`/api/reviews/${kind}/${name}/page.html?camera_pass=${pass}`}
          download
        >
          <Download size={14} aria-hidden /> Review page
        </a>
      ) : going ? (
        <span role="status" className="figures">
          Making the page
          {progress ? `, ${Math.round((100 * progress.done) / Math.max(progress.count, 1))} %` : ""}
          {progress?.seconds_left != null && `, ${Math.ceil(progress.seconds_left)} s left`}
        </span>
      ) : (
        <button
          type="button"
          className="btn btn-xs font-normal"
          title="One file with the film and all notes, which opens from a mail"
          onClick={() => make.mutate()}
        >
          Make a review page
        </button>
      )}
      <button type="button" className="btn btn-xs font-normal" onClick={() => chooser.current?.click()}>
        <FileUp size={14} aria-hidden /> Import a page
      </button>
      <input
        ref={chooser}
        type="file"
        accept=".html,.htm"
        hidden
        data-testid="page-chooser"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) merge.mutate(file);
        }}
      />
      {merge.data && (
        <p role="status" className="w-full">
          {count(merge.data.new, "new note")}
          {merge.data.changed > 0 && `, ${merge.data.changed} closed or opened again`}.
        </p>
      )}
      {(make.error || merge.error || data?.message) && (
        <div className="w-full">
          <ErrorAlert error={make.error || merge.error || data?.message || null} />
        </div>
      )}
    </section>
  );
}
