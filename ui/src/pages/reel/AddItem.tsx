import { useQuery } from "@tanstack/react-query";
import { Columns2, Group, Music, Plus, Upload } from "lucide-react";
import { useState } from "react";
import type { Run } from "../../api/client";
import { runsQuery } from "../../api/queries";
import { shotsQuery } from "../../api/shotListQuery";
import { Dropdown } from "../../parts/Dropdown";
import { TakePicture } from "../../parts/takes/TakePicture";
import { takeSettings } from "../../parts/takes/takeText";
import { dragItem } from "./dropping";
import { reelsQuery } from "./queries";
import { type Item, isWhole, type ReelData } from "./reelItems";

const VIDEO = /\.(mp4|mov|webm|mkv|avi|m4v|gif)$/i;

/** Adds a take, a shot, a title, a gap, a layout or a file after what is selected. */
interface Props {
  reel: ReelData;
  onAdd: (item: Item) => void;
  onFiles: (files: File[]) => void;
  busy: boolean;
  /** Items that follow each other and can become one: those selected, or the selected one and the next. */
  several: number;
  onTogether: (kind: "layout" | "group") => void;
}

export function AddItem({ reel, onAdd, onFiles, busy, several, onTogether }: Props) {
  const together = several
    ? `Of ${several} items: the selected and the next, or all that you select with Shift`
    : "Select an item that another follows";
  const { data: runs } = useQuery(runsQuery);
  const { data: shots } = useQuery(shotsQuery);
  const { data: reels } = useQuery(reelsQuery);
  const others = (reels?.reels ?? []).filter((one) => one.id !== reel.id && one.frames > 0);
  const [file, setFile] = useState("");
  const takes = (runs?.runs ?? []).filter(isWhole);
  const add = (item: Record<string, unknown>) => onAdd(item as unknown as Item);
  return (
    <>
      <PickList name="Take" empty="No take is whole yet: capture a shot first." onPick={add}>
        {takes.flatMap((run) =>
          (run.passes.length > 1 ? run.passes : [{ camera: "", render_pass: "" }]).map(
            ({ camera, render_pass: pass }) => ({
              item: { kind: "take", take: `run:${run.id}`, camera, render_pass: pass },
              text: [run.title, camera, pass].filter(Boolean).join(", "),
              note: `take ${run.id}${run.draft ? ", draft" : ""}`,
              run,
            }),
          ),
        )}
      </PickList>
      <PickList
        name="Shot"
        title="Its newest take; captured from here if there is none"
        empty="There are no shots yet."
        onPick={add}
      >
        {(shots?.shots ?? []).map((shot) => ({
          item: { kind: "shot", shot: `../shots/${shot.id}.json` },
          text: shot.title,
        }))}
      </PickList>
      {others.length > 0 && (
        <PickList name="Reel" title="Nested reel: all items of another reel" onPick={add}>
          {others.map((one) => ({
            item: { kind: "reel", reel: `${one.id}.json` },
            text: one.title,
            note: one.id,
          }))}
        </PickList>
      )}
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
        title="A sound file, heard below the whole reel"
      >
        <Music size={14} aria-hidden /> Sound
        <input
          type="file"
          multiple
          accept="audio/*"
          className="sr-only"
          disabled={busy}
          data-testid="bring-sound"
          onChange={(event) => {
            if (event.target.files?.length) onFiles([...event.target.files]);
            event.target.value = "";
          }}
        />
      </label>
      <span className="flex items-center gap-1.5 border-l rule pl-2">
        <button
          type="button"
          className="btn btn-sm"
          disabled={!several}
          title={together}
          onClick={() => onTogether("layout")}
        >
          <Columns2 size={14} aria-hidden /> Side by side
        </button>
        <button
          type="button"
          className="btn btn-sm"
          disabled={!several}
          title={together}
          onClick={() => onTogether("group")}
        >
          <Group size={14} aria-hidden /> Group
        </button>
      </span>
      <label
        className={`btn btn-sm ${busy ? "btn-disabled" : ""}`}
        title="Videos, images, sounds; or drop them"
      >
        <Upload size={14} aria-hidden /> {busy ? "Importing…" : "Files"}
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

interface Pick {
  item: Record<string, unknown>;
  text: string;
  note?: string;
  /** The take, to be shown with its picture and settings. */
  run?: Run;
}

/** A list of what can be added: pressed, it comes after what is selected; or it is dragged to its place. */
function PickList({
  name,
  title,
  empty,
  onPick,
  children,
}: {
  name: string;
  title?: string;
  empty?: string;
  onPick: (item: Record<string, unknown>) => void;
  children: Pick[];
}) {
  return (
    <Dropdown
      summary={
        <>
          <Plus size={14} aria-hidden /> {name}
        </>
      }
      title={title}
      className="btn btn-sm"
      place="dropdown-top"
    >
      {(close) => (
        <ul className="dropdown-content menu z-20 max-h-80 w-[28rem] max-w-[92vw] flex-nowrap overflow-auto rounded-box border rule bg-base-100 p-1 text-small">
          {children.length === 0 && <li className="quiet p-2">{empty}</li>}
          {children.map(({ item, text, note, run }) => (
            <li key={JSON.stringify(item)}>
              <button
                type="button"
                draggable
                onDragStart={(event) => dragItem(event, item)}
                onDragEnd={close}
                onClick={() => {
                  close();
                  onPick(item);
                }}
              >
                {run && <TakePicture run={run} />}
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{text}</span>
                  {run && <span className="quiet figures block truncate text-note">{takeSettings(run)}</span>}
                </span>
                {note && <span className="quiet figures">{note}</span>}
              </button>
            </li>
          ))}
        </ul>
      )}
    </Dropdown>
  );
}
