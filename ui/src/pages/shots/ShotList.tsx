import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { shotsQuery } from "../../api/shotListQuery";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";
import type { ToastMessage } from "../../parts/shell/Toast";
import { ShotCard } from "./ShotCard";

const HiddenShots = lazy(async () => ({ default: (await import("./HiddenShots")).HiddenShots }));
const Toast = lazy(async () => ({ default: (await import("../../parts/shell/Toast")).Toast }));
const NewShot = lazy(async () => ({ default: (await import("./NewShot")).NewShot }));

export function ShotList() {
  const { data, error } = useQuery(shotsQuery);
  const [making, setMaking] = useState<File[] | null>(null);
  const [message, setMessage] = useState<ToastMessage | null>(null);
  const [dragging, setDragging] = useState(false);
  const shots = data?.shots ?? [];
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: files are dropped on it, which New shot offers by keyboard
    <div
      className="relative mx-auto min-h-full max-w-6xl px-6 py-5 max-sm:px-3"
      data-testid="shots"
      onDragOver={(event) => {
        event.preventDefault();
        setDragging(event.dataTransfer.types.includes("Files"));
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setDragging(false);
      }}
      onDrop={(event) => {
        event.preventDefault();
        setDragging(false);
        const files = [...event.dataTransfer.files];
        if (files.length > 0) setMaking(files);
      }}
    >
      <div className="mb-3 flex flex-wrap items-start gap-3">
        <PageHead title="Shots">
          {data ? `${count(shots.length, "shot")}. ` : ""}Plan each piece of video, and see what it will look
          like.
        </PageHead>
        <div className="flex-1" />
        <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking([])}>
          <Plus size={16} aria-hidden /> New shot
        </button>
      </div>
      <ErrorAlert error={error} />
      {data && shots.length === 0 && (
        <p className="quiet rounded-box border border-dashed rule p-10 text-center">
          No shot yet. Drop a mesh, a script, a page, pictures or a video here, or press <b>New shot</b>.
        </p>
      )}
      {!data && !error && (
        <p className="quiet" role="status">
          Loading the shots…
        </p>
      )}
      {dragging && (
        <p
          className="pointer-events-none absolute inset-2 z-20 flex items-start justify-center rounded-box border-2 border-dashed border-primary bg-base-100/85 pt-24 text-lg font-semibold"
          data-testid="drop-here"
        >
          Drop the files to begin a new shot
        </p>
      )}
      <ul className="grid grid-cols-3 gap-4 max-lg:grid-cols-2 max-sm:grid-cols-1">
        {shots.map((line) => (
          <ShotCard key={line.id || line.title} line={line} onMessage={setMessage} />
        ))}
      </ul>
      {(data?.hidden.length ?? 0) > 0 && (
        <Suspense>
          <HiddenShots hidden={data?.hidden ?? []} />
        </Suspense>
      )}
      <Suspense>
        <Toast message={message} onClose={() => setMessage(null)} />
      </Suspense>
      {making && (
        <Suspense>
          <NewShot files={making} onClose={() => setMaking(null)} />
        </Suspense>
      )}
    </div>
  );
}
