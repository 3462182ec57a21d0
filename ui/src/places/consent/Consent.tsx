import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ShieldQuestion } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { body, client, type Schemas } from "../../api/client";
import { consentQuery } from "../../api/queries";
import { Complaint } from "../../parts/Complaint";
import { KindIcon } from "../../parts/kinds";
import { count, size } from "../../parts/words";

/** Over a project from elsewhere: nothing of it runs until its person has looked at the code. */
export function Consent() {
  const { data } = useQuery(consentQuery);
  const [asking, setAsking] = useState(false);
  if (!data || data.own || data.unseen.length === 0) return null;
  return (
    <>
      <div
        role="status"
        data-testid="from-elsewhere"
        className="flex shrink-0 items-center gap-3 border-b border-warning bg-warning/15 px-4 py-1.5 text-[13px]"
      >
        <ShieldQuestion size={17} className="shrink-0 text-warning" aria-hidden />
        <span className="min-w-0 flex-1">
          This project comes from elsewhere. Code of <b>{count(data.unseen.length, "source")}</b> will not run
          until you have reviewed it.
        </span>
        <button type="button" className="btn btn-sm" onClick={() => setAsking(true)}>
          Review the code
        </button>
      </div>
      {asking && <Asking unseen={data.unseen} onClose={() => setAsking(false)} />}
    </>
  );
}

function Asking({ unseen, onClose }: { unseen: Schemas["UnseenSource"][]; onClose: () => void }) {
  const queries = useQueryClient();
  const dialog = useRef<HTMLDialogElement>(null);
  const [left, setLeft] = useState<string[]>([]);
  useEffect(() => dialog.current?.showModal(), []);
  const chosen = unseen.map((source) => source.digest).filter((digest) => !left.includes(digest));
  const agree = useMutation({
    mutationFn: () => body(client.POST("/api/consent", { body: { digests: chosen } })),
    onSuccess: () => {
      dialog.current?.close();
      void queries.invalidateQueries();
    },
    // What has changed since it was shown is shown as it is now.
    onError: () => void queries.invalidateQueries({ queryKey: consentQuery.queryKey }),
  });
  return (
    <dialog ref={dialog} className="modal" aria-label="Code from elsewhere" onClose={onClose}>
      <div className="modal-box flex max-h-[85vh] max-w-4xl flex-col p-5">
        <h2 className="text-xl font-semibold">Code from elsewhere</h2>
        <p className="mt-1 text-[14px]">
          Python code runs with your rights: it can read and change your files and use the network. A page
          runs in a browser without network and sees the files of its own folder alone.
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
                <span className="quiet truncate text-[13px]">
                  {source.kind}, for {source.shots.join(", ")}
                </span>
              </label>
              {source.files.map((file) => (
                <details key={file.path} className="mt-1.5 text-[13px]">
                  <summary className="cursor-pointer">
                    {file.name} <span className="quiet figures">{size(file.bytes)}</span>
                  </summary>
                  {file.text ? (
                    <pre className="figures mt-1 max-h-72 overflow-auto rounded-box bg-base-200 p-2 text-[12px]">
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
        <Complaint error={agree.error} />
        <div className="mt-4 flex items-center gap-2">
          <p className="quiet flex-1 text-[13px]">
            This applies to the content shown: if the code changes, you are asked again.
          </p>
          <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
            Do not run
          </button>
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={chosen.length === 0 || agree.isPending}
            onClick={() => agree.mutate()}
          >
            Allow {count(chosen.length, "source")} to run
          </button>
        </div>
      </div>
    </dialog>
  );
}
