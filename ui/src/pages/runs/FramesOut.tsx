import { FileArchive, FolderOutput } from "lucide-react";
import { useState } from "react";
import type { Run } from "../../api/client";
import { Choice } from "../../parts/entries/Choice";
import { count } from "../../parts/format";

interface Props {
  run: Run;
  pending: boolean;
  /** Lays the frames into a folder; an empty one is the project's own. */
  onFolder: (folder: string, links: boolean) => void;
}

/** The frames themselves, under the shot's names: in a folder or as a ZIP archive. */
export function FramesOut({ run, pending, onFolder }: Props) {
  const [folder, setFolder] = useState("");
  const [links, setLinks] = useState(false);
  const there = run.made + run.kept;
  const unit = run.camera_passes.length === 1 ? "frame" : "picture";
  return (
    <div className="mt-3 border-t rule pt-2.5">
      <h3 className="mb-1 text-small font-semibold">Frames as files</h3>
      {there < run.count && there > 0 && (
        <p className="quiet mb-1 text-note">
          {count(there, unit)} of {run.count.toLocaleString("en")} captured so far.
        </p>
      )}
      <label className="mb-1.5 block text-small">
        <span className="quiet">Folder</span>
        <input
          className="entry w-full"
          aria-label="Folder for the frames"
          placeholder="~/frames/take-1 (empty: in the project)"
          value={folder}
          onChange={(event) => setFolder(event.target.value)}
        />
      </label>
      <div className="mb-1.5 flex items-center gap-2 text-small">
        <span className="quiet">as</span>
        <Choice
          label="Copies or hard links"
          value={links ? "links" : "copies"}
          options={[
            { value: "copies", label: "copies" },
            { value: "links", label: "use hard links" },
          ]}
          onChoose={(how) => setLinks(how === "links")}
        />
      </div>
      {links && (
        <p className="quiet mb-1.5 text-note">
          Hard links take no space, but a program that writes to them changes the take.
        </p>
      )}
      <div className="flex gap-1.5">
        <button
          type="button"
          className="btn btn-sm flex-1 font-normal"
          disabled={there === 0 || pending}
          onClick={() => onFolder(folder.trim(), links)}
        >
          <FolderOutput size={15} aria-hidden /> {count(there, unit)} to the folder
        </button>
        <a
          className={`btn btn-sm font-normal ${there === 0 ? "btn-disabled" : ""}`}
          aria-disabled={there === 0}
          href={there === 0 ? undefined : `/api/runs/${run.id}/frames.zip`}
        >
          <FileArchive size={15} aria-hidden /> ZIP
        </a>
      </div>
    </div>
  );
}
