import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { body, client, type Schemas } from "../../api/client";
import { consentQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count, size } from "../../parts/format";
import { KindIcon } from "../../parts/kinds";

/** The code that would run, to review before you trust it. */
export function Review({ consent, onClose }: { consent: Schemas["ConsentBody"]; onClose: () => void }) {
  const { unseen, writes_bounded: bounded } = consent;
  const queries = useQueryClient();
  const dialog = useRef<HTMLDialogElement>(null);
  const [left, setLeft] = useState<string[]>([]);
  useEffect(() => dialog.current?.showModal(), []);
  const chosen = unseen.map((source) => source.digest).filter((digest) => !left.includes(digest));
  const trust = useMutation({
    mutationFn: () => body(client.POST("/api/consent", { body: { digests: chosen } })),
    onSuccess: () => {
      dialog.current?.close();
      void queries.invalidateQueries();
    },
    // Code that changed since it was shown is shown again.
    onError: () => void queries.invalidateQueries({ queryKey: consentQuery.queryKey }),
  });
  return (
    <dialog ref={dialog} className="modal" aria-label="Code to review" onClose={onClose}>
      <div className="modal-box flex max-h-[85vh] max-w-4xl flex-col p-5">
        <h2 className="text-xl font-semibold">Code to review</h2>
        <p className="mt-1 text-body">
          {bounded
            ? "Python code can read your files and use the network. It can write only the project's frames and its own temporary folder."
            : "Python code runs with your rights: it can read and change your files and use the network."}{" "}
          A page runs in a browser without network and can read only its own folder.
        </p>
        <ul className="mt-3 min-h-0 flex-1 space-y-2 overflow-auto pr-1">
          {unseen.map((source) => (
            <li key={source.digest} className="rounded-box border rule p-2.5">
              <label className="flex items-center gap-2.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={!left.includes(source.digest)}
                  onChange={(event) =>
                    setLeft((before) =>
                      event.target.checked
                        ? before.filter((digest) => digest !== source.digest)
                        : [...before, source.digest],
                    )
                  }
                />
                <KindIcon kind={source.kind} />
                <span className="min-w-0 flex-1 truncate font-semibold">{source.files[0]?.name}</span>
                <span className="quiet truncate text-small">
                  {source.kind}, for {source.shots.join(", ")}
                </span>
              </label>
              {source.files.map((file) => (
                <details key={file.path} className="mt-1.5 text-small">
                  <summary className="cursor-pointer">
                    {file.name} <span className="quiet figures">{size(file.bytes)}</span>
                  </summary>
                  {file.text ? (
                    <pre className="figures mt-1 max-h-72 overflow-auto rounded-box bg-base-200 p-2 text-note">
                      {file.text}
                    </pre>
                  ) : (
                    <p className="quiet">
                      Not shown here, because it is long or not text. It is at {file.path}.
                    </p>
                  )}
                </details>
              ))}
            </li>
          ))}
        </ul>
        <ErrorAlert error={trust.error} />
        <div className="mt-4 flex items-center gap-2">
          <p className="quiet flex-1 text-small">
            This applies to the content shown: if the code changes, you are asked again.
          </p>
          <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
            Do not run
          </button>
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={chosen.length === 0 || trust.isPending}
            onClick={() => trust.mutate()}
          >
            Allow {count(chosen.length, "source")} to run
          </button>
        </div>
      </div>
    </dialog>
  );
}
