import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { body, client, type Schemas } from "../../api/client";
import { shotQuery } from "../../api/edits";
import { demoSourcesQuery } from "../../api/queries";
import { upload } from "../../api/upload";
import { sourceKind, vocabulary } from "../../api/vocabulary";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { useChange } from "../../parts/hooks/useChange";
import { KindIcon } from "../../parts/kinds";
import { AskRate } from "./AskRate";
import { OwnProgram } from "./OwnProgram";

/** A new shot from a demo source, an uploaded file or a path on this machine; `files` are taken at once. */
export function NewShot({ files, onClose }: { files: File[]; onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data: demos } = useQuery(demoSourcesQuery);
  const [path, setPath] = useState("");
  const [stills, setStills] = useState<Schemas["UploadBody"] | null>(null);
  useEffect(() => dialog.current?.showModal(), []);

  const make = useMutation({
    mutationFn: async ({ files, demo = "", path = "", rate = "", gaps = "", other_sizes = "" }: Order) => {
      const uploaded = files
        ? await upload<Schemas["UploadBody"]>("/api/sources", files)
        : path && !rate
          ? await body(client.POST("/api/sources/inspect", { body: { path } }))
          : null;
      if (uploaded?.shot)
        return body(client.GET("/api/shots/{shot_id}", { params: { path: { shot_id: uploaded.shot } } }));
      if (uploaded && sourceKind(uploaded.kind)?.needs_rate) {
        setStills(uploaded);
        return null;
      }
      return body(
        client.POST("/api/shots", {
          body: { demo, path: uploaded?.path ?? path, title: "", rate, gaps, other_sizes },
        }),
      );
    },
    onSuccess: (shot) => {
      if (!shot) return;
      queries.setQueryData(shotQuery(shot.id).queryKey, shot);
      void queries.invalidateQueries({ queryKey: ["shots"] });
      navigate(`/shots/${shot.id}`);
    },
  });
  const busy = make.isPending;
  // Files that were dropped on the list need no further press.
  useChange(true, () => {
    if (files.length > 0) make.mutate({ files });
  });

  if (stills) {
    return (
      <dialog ref={dialog} className="modal" aria-label="New shot" onClose={onClose}>
        <AskRate
          stills={stills}
          busy={busy}
          error={make.error}
          onRate={(rate, settings) => make.mutate({ path: stills.path, rate, ...settings })}
          onCancel={() => dialog.current?.close()}
        />
      </dialog>
    );
  }
  return (
    <dialog ref={dialog} className="modal" aria-label="New shot" onClose={onClose}>
      <div className="modal-box max-w-4xl p-5">
        <h2 className="mb-3 text-xl font-semibold">New shot</h2>
        <ErrorAlert error={make.error} onClose={() => make.reset()} />
        <div className="mt-3 grid grid-cols-[2fr_3fr] gap-6 max-md:grid-cols-1">
          <section>
            <h3 className="mb-1.5 font-semibold">Your own file</h3>
            <DropZone busy={busy} onFiles={(files) => make.mutate({ files })} />
            <form
              className="mt-3 flex items-end gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (path.trim()) make.mutate({ path: path.trim() });
              }}
            >
              <label className="min-w-0 flex-1 text-small">
                or a path on this machine
                <input
                  className="entry mt-1 w-full"
                  value={path}
                  placeholder="~/models/hull.stl"
                  onChange={(event) => setPath(event.target.value)}
                />
              </label>
              <button type="submit" className="btn btn-sm" disabled={busy || !path.trim()}>
                Create shot
              </button>
            </form>
            <OwnProgram />
          </section>
          <section>
            <h3 className="mb-1.5 font-semibold">Or start from an example</h3>
            <ul className="grid grid-cols-2 gap-2">
              {demos?.sources.map((demo) => (
                <li key={demo.name}>
                  <button
                    type="button"
                    disabled={busy}
                    className="flex h-full w-full items-start gap-2.5 rounded-box border rule p-2 text-left hover:border-primary"
                    onClick={() => make.mutate({ demo: demo.name })}
                  >
                    <KindIcon kind={demo.kind} />
                    <span>
                      <span className="block font-semibold">
                        {demo.title} <span className="quiet font-normal">· {demo.kind}</span>
                      </span>
                      <span className="quiet block text-note leading-snug">{demo.about}</span>
                    </span>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        </div>
        <div className="mt-4 flex items-center gap-3">
          <p className="quiet flex-1 text-small">
            {busy
              ? "Reading the source and measuring it…"
              : "The kind is detected from the file's content. Python code runs with your rights: it can read your files and use the network, so import only code that you know."}
          </p>
          {busy && <span className="loading loading-spinner loading-sm" />}
          <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
            Cancel
          </button>
        </div>
      </div>
    </dialog>
  );
}

function DropZone({ busy, onFiles }: { busy: boolean; onFiles: (files: File[]) => void }) {
  const [over, setOver] = useState(false);
  return (
    <label
      className={`flex cursor-pointer flex-col items-center gap-1.5 rounded-box border-2 border-dashed p-6 text-center ${over ? "border-primary bg-primary/10" : "border-base-content/35 hover:border-primary"}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        if (!busy) onFiles([...event.dataTransfer.files]);
      }}
    >
      <Upload size={22} aria-hidden />
      <span className="font-semibold">Drop files here, or click to choose</span>
      <span className="quiet text-small">
        {vocabulary()
          .sources.map((kind) => kind.bring)
          .join(" · ")}
      </span>
      <input
        type="file"
        multiple
        className="sr-only"
        disabled={busy}
        data-testid="upload"
        onChange={(event) => event.target.files?.length && onFiles([...event.target.files])}
      />
    </label>
  );
}

interface Order {
  demo?: string;
  path?: string;
  files?: File[];
  rate?: string;
  gaps?: string;
  other_sizes?: string;
}
