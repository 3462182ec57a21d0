import { useQuery } from "@tanstack/react-query";
import { Plus, Upload } from "lucide-react";
import { type ReactNode, useState } from "react";
import { runsQuery, shotsQuery } from "../../api/queries";
import { Dropdown } from "../../parts/Dropdown";
import { dragItem } from "./dropping";
import type { Item, ReelData } from "./reelItems";

const VIDEO = /\.(mp4|mov|webm|mkv|avi|m4v|gif)$/i;

/** Adds a take, a shot, a title, a gap, a layout or a file after what is selected. */
interface Props {
  reel: ReelData;
  onAdd: (item: Item) => void;
  onFiles: (files: File[]) => void;
  busy: boolean;
}

export function AddItem({ reel, onAdd, onFiles, busy }: Props) {
  const { data: runs } = useQuery(runsQuery);
  const { data: shots } = useQuery(shotsQuery);
  const [file, setFile] = useState("");
  const takes = (runs?.runs ?? []).filter((run) => run.made + run.kept === run.count && run.count > 0);
  const add = (item: Record<string, unknown>) => onAdd(item as unknown as Item);
  return (
    <>
      <Dropdown
        summary={
          <>
            <Plus size={14} aria-hidden /> Take
          </>
        }
        className="btn btn-sm"
        place="dropdown-top"
      >
        {(close) => (
          <ul className="dropdown-content menu z-20 max-h-80 w-96 flex-nowrap overflow-auto rounded-box border rule bg-base-100 p-1 text-small">
            {takes.length === 0 && <li className="quiet p-2">No take is whole yet: capture a shot first.</li>}
            {takes.flatMap((run) =>
              (run.passes.length > 1 ? run.passes : [{ camera: "", render_pass: "" }]).map(
                ({ camera, render_pass: pass }) => (
                  <li key={`${run.id} ${camera} ${pass}`}>
                    <Entry
                      item={{ kind: "take", take: `run:${run.id}`, camera, render_pass: pass }}
                      onDropped={close}
                      onPick={(item) => {
                        close();
                        add(item);
                      }}
                    >
                      <span className="min-w-0 flex-1 truncate">
                        {[run.title, camera, pass].filter(Boolean).join(", ")}
                      </span>
                      <span className="quiet figures">
                        run {run.id}
                        {run.rough ? ", rough" : ""}
                      </span>
                    </Entry>
                  </li>
                ),
              ),
            )}
          </ul>
        )}
      </Dropdown>
      <Dropdown
        summary={
          <>
            <Plus size={14} aria-hidden /> Shot
          </>
        }
        title="Its newest take; captured from here if there is none"
        className="btn btn-sm"
        place="dropdown-top"
      >
        {(close) => (
          <ul className="dropdown-content menu z-20 max-h-80 w-80 flex-nowrap overflow-auto rounded-box border rule bg-base-100 p-1 text-small">
            {shots?.shots.map((shot) => (
              <li key={shot.id}>
                <Entry
                  item={{ kind: "shot", shot: `../shots/${shot.id}.json` }}
                  onDropped={close}
                  onPick={(item) => {
                    close();
                    add(item);
                  }}
                >
                  {shot.title}
                </Entry>
              </li>
            ))}
          </ul>
        )}
      </Dropdown>
      <button
        type="button"
        className="btn btn-sm"
        onClick={() => add({ kind: "title", text: reel.document.title, seconds: 3 })}
      >
        <Plus size={14} aria-hidden /> Title
      </button>
      <button type="button" className="btn btn-sm" onClick={() => add({ kind: "gap", seconds: 1 })}>
        <Plus size={14} aria-hidden /> Gap
      </button>
      <label
        className={`btn btn-sm ${busy ? "btn-disabled" : ""}`}
        title="Videos, images, sounds; or drop them"
      >
        <Upload size={14} aria-hidden /> {busy ? "Bringing…" : "Files"}
        <input
          type="file"
          multiple
          className="sr-only"
          disabled={busy}
          data-testid="bring"
          onChange={(event) => {
            if (event.target.files?.length) onFiles([...event.target.files]);
            event.target.value = "";
          }}
        />
      </label>
      <form
        className="flex items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (!file.trim()) return;
          add(VIDEO.test(file) ? { kind: "clip", file: file.trim() } : { kind: "stills", file: file.trim() });
          setFile("");
        }}
      >
        <input
          className="entry w-60"
          aria-label="File, folder or pattern"
          placeholder="a clip, a folder of stills, f.%04d.png"
          value={file}
          onChange={(event) => setFile(event.target.value)}
        />
        <button type="submit" className="btn btn-sm" disabled={!file.trim()}>
          Add the file
        </button>
      </form>
    </>
  );
}

/** An entry of a list: pressed, it comes after what is selected; or it is dragged to its place. */
function Entry({
  item,
  onPick,
  onDropped,
  children,
}: {
  item: Record<string, unknown>;
  onDropped: () => void;
  onPick: (item: Record<string, unknown>) => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      draggable
      onDragStart={(event) => dragItem(event, item)}
      onDragEnd={onDropped}
      onClick={() => onPick(item)}
    >
      {children}
    </button>
  );
}
