import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { shotsQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { Toast, type ToastMessage } from "../../parts/shell/Toast";
import { ShotCard } from "./ShotCard";

const NewShot = lazy(async () => ({ default: (await import("./NewShot")).NewShot }));

export function ShotList() {
  const { data, error } = useQuery(shotsQuery);
  const [making, setMaking] = useState<File[] | null>(null);
  const [message, setMessage] = useState<ToastMessage | null>(null);
  const shots = data?.shots ?? [];
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: files are dropped on it, which New shot offers by keyboard
    <div
      className="mx-auto min-h-full max-w-6xl px-6 py-5"
      data-testid="shots"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const files = [...event.dataTransfer.files];
        if (files.length > 0) setMaking(files);
      }}
    >
      <div className="mb-4 flex items-baseline gap-3">
        <h1 className="text-2xl font-semibold">Shots</h1>
        {data && <span className="quiet">{count(shots.length, "shot")} in this project</span>}
        <div className="flex-1" />
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking([])}>
          <Plus size={16} aria-hidden /> New shot
        </button>
      </div>
      <ErrorAlert error={error} />
      {data && shots.length === 0 && (
        <p className="quiet rounded-box border border-dashed rule p-10 text-center">
          No shot yet. A shot is one piece of video, planned: drop a mesh, a script, a page, pictures or a
          video here, or press <b>New shot</b>; its frames are counted before anything is captured.
        </p>
      )}
      <ul className="grid grid-cols-3 gap-4">
        {shots.map((line) => (
          <ShotCard key={line.id || line.title} line={line} onMessage={setMessage} />
        ))}
      </ul>
      <Toast message={message} onClose={() => setMessage(null)} />
      {making && (
        <Suspense>
          <NewShot files={making} onClose={() => setMaking(null)} />
        </Suspense>
      )}
    </div>
  );
}
