import { Plus, X } from "lucide-react";
import type { Run } from "../../api/client";
import { TextEntry } from "../../parts/entries/TextEntry";
import { TakeChoice } from "../../parts/takes/TakeChoice";
import { takeTitle } from "../../parts/takes/takeText";
import { Sizes } from "./Sizes";
import type { Dispatch } from "./useDispatch";

/** As a sentence: which takes, which cameras and passes, into which folder, under which names. */
export function ExportSources({ dispatch }: { dispatch: Dispatch }) {
  const { leaving, takes, setTakes } = dispatch;
  const ids = leaving.map((run) => run.id);
  const other = takes.find((run) => !ids.includes(run.id));
  return (
    <div className="mb-3 flex flex-col gap-2">
      {dispatch.reel && (
        <div className="flex items-center gap-2">
          <span className="w-28 shrink-0">Make files of</span>
          <FirstChoice dispatch={dispatch} value={`${dispatch.reel.title} · reel`} />
          <span className="figures min-w-0 flex-1 truncate text-small">{dispatch.reel.summary}</span>
        </div>
      )}
      {dispatch.sizes.length > 0 && (
        <fieldset
          className="ml-30 flex flex-wrap items-center gap-x-4 gap-y-1"
          aria-label="Sizes of the files"
        >
          <Sizes sizes={dispatch.sizes} chosen={dispatch.formats} onToggle={dispatch.toggleFormat} />
        </fieldset>
      )}
      {leaving.map((run, at) => (
        <div key={run.id} className="flex flex-col gap-1.5">
          <div className="flex flex-wrap items-center gap-2">
            <span className="w-28 shrink-0">{at === 0 ? "Make files of" : "and of"}</span>
            {ids.length === 1 ? (
              <FirstChoice dispatch={dispatch} value={takeTitle(run)} />
            ) : (
              <TakeChoice
                label={at === 0 ? "Take" : `Take ${at + 1}`}
                value={takeTitle(run)}
                takes={takes.filter((one) => one.id === run.id || !ids.includes(one.id))}
                onTake={(one) => setTakes(ids.with(at, one.id))}
              />
            )}
            <span className="figures min-w-0 flex-1 truncate text-small">
              {run.summary}, {run.size}
            </span>
            {leaving.length > 1 && (
              <button
                type="button"
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`Exclude ${run.title}`}
                onClick={() => setTakes(ids.filter((id) => id !== run.id))}
              >
                <X size={14} aria-hidden />
              </button>
            )}
            {at === leaving.length - 1 && other && (
              <button type="button" className="btn btn-xs" onClick={() => setTakes([...ids, other.id])}>
                <Plus size={14} aria-hidden /> Add a take
              </button>
            )}
          </div>
          <Missing run={run} />
          <CameraPasses run={run} dispatch={dispatch} />
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        <span className="w-28 shrink-0">into</span>
        <TextEntry
          label="Folder"
          width="13rem"
          value={dispatch.folder}
          placeholder="the project's outputs"
          onCommit={dispatch.setFolder}
        />
        <span className="shrink-0">named</span>
        <TextEntry
          label="Names"
          width="22rem"
          value={dispatch.pattern}
          placeholder="{title}.{take}.{camera}.{pass}.{recipe}.{size}"
          onCommit={dispatch.setPattern}
        />
      </div>
    </div>
  );
}

/** A take, or a reel. */
function FirstChoice({ dispatch, value }: { dispatch: Dispatch; value: string }) {
  return (
    <TakeChoice
      label="Take"
      value={value}
      takes={dispatch.takes}
      onTake={(run) => dispatch.setTakes([run.id])}
      others={dispatch.reels.map((one) => ({
        id: one.id,
        title: `${one.title} · reel`,
        settings: one.summary,
      }))}
      onOther={dispatch.setReel}
    />
  );
}

/** Names the missing frames of a take, and what an export does about them. */
function Missing({ run }: { run: Run }) {
  const missing = run.count - run.made - run.kept;
  if (missing === 0) return null;
  return (
    <p className="ml-30 text-note text-warning">
      {missing} of {run.count} frames are missing. Choose a contiguous range, or hold the previous frame in
      the settings of a recipe.
    </p>
  );
}

function CameraPasses({ run, dispatch }: { run: Run; dispatch: Dispatch }) {
  if (run.camera_passes.length < 2) return null;
  return (
    <fieldset
      className="ml-30 flex flex-wrap items-center gap-x-4 gap-y-1 text-small"
      aria-label={`Cameras and passes of ${run.title}`}
    >
      {run.camera_passes.map((name, pass) => (
        <label key={name} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={dispatch.passesOf(run).includes(pass)}
            onChange={() => dispatch.togglePass(run, pass)}
          />
          {name}
        </label>
      ))}
    </fieldset>
  );
}
