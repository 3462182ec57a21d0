import type { Run } from "../../api/client";
import { TextEntry } from "../../parts/TextEntry";
import type { Dispatch } from "./useDispatch";

/** As a sentence: which take, which cameras and passes, into which folder, under which names. */
export function WhatLeaves({ dispatch, take }: { dispatch: Dispatch; take: Run }) {
  const several = take.camera_passes.length > 1;
  const toggle = (pass: number) =>
    dispatch.setPasses(
      dispatch.passes.includes(pass)
        ? dispatch.passes.filter((one) => one !== pass)
        : [...dispatch.passes, pass].sort((a, b) => a - b),
    );
  return (
    <div className="mb-3 flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <span className="shrink-0">Make files of</span>
        <select
          className="select select-sm w-64 min-w-0 shrink"
          aria-label="Take"
          value={take.id}
          onChange={(event) => dispatch.chooseTake(Number(event.target.value))}
        >
          {dispatch.takes.map((run) => (
            <option key={run.id} value={run.id}>
              {run.title} · run {run.id}
              {run.rough ? " · rough" : ""}
            </option>
          ))}
        </select>
        <span className="figures truncate text-small">
          {take.summary}, {take.size}
        </span>
      </div>
      <div className="flex items-center gap-2">
        <span className="shrink-0">into</span>
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
          value={dispatch.names}
          placeholder="{title}.{camera}.{pass}.{recipe}.{version}"
          onCommit={dispatch.setNames}
        />
      </div>
      {several && (
        <fieldset
          className="flex flex-wrap items-center gap-x-4 gap-y-1 text-small"
          aria-label="Cameras and passes"
        >
          {take.camera_passes.map((name, pass) => (
            <label key={name} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={dispatch.passes.includes(pass)}
                onChange={() => toggle(pass)}
              />
              {name}
            </label>
          ))}
        </fieldset>
      )}
    </div>
  );
}
