import { Camera, ChevronDown, Film, Images, LayoutGrid, Zap } from "lucide-react";
import type { ReactNode } from "react";
import type { Shot } from "../../../api/client";
import { Dropdown } from "../../../parts/Dropdown";
import { withKeys } from "../../../parts/shell/shortcuts";
import type { FullRecipe } from "../../dispatch/draft";
import { grouped } from "../../dispatch/groups";
import { CostPanel } from "../CostPanel";
import type { Edit } from "../edit";
import { LimitsOfRun } from "./LimitsOfRun";
import type { Capture } from "./useCapture";

interface Props {
  shot: Shot;
  capture: Capture;
  frame: number;
  edit: Edit;
  onProof: () => void;
  onVariants: () => void;
}

/** One press to the file, always in sight; the arrow beside it offers the parts. */
export function CaptureButton({ shot, capture, frame, edit, onProof, onVariants }: Props) {
  const { words, file, blocked, pending, order } = capture;
  const off = blocked !== null || pending;
  const part = (close: () => void, label: string, hint: string, icon: ReactNode, act: () => void) => (
    <li>
      <button
        type="button"
        className="flex w-full items-start gap-2 rounded-field px-3 py-1.5 text-left hover:bg-base-200 disabled:opacity-50"
        disabled={off}
        onClick={() => {
          close();
          act();
        }}
      >
        {icon}
        <span>
          <span className="block font-semibold">{label}</span>
          <span className="quiet block text-note">{hint}</span>
        </span>
      </button>
    </li>
  );
  return (
    <div className="relative flex shrink-0 items-stretch">
      <button
        type="button"
        className="btn btn-primary btn-sm rounded-r-none px-2.5 text-body"
        disabled={off}
        aria-describedby={blocked ? "cannot-capture" : undefined}
        aria-keyshortcuts="Control+Enter"
        title={withKeys("Capture", "make")}
        onClick={() => order({ draft: false, to_file: true })}
        data-testid="capture"
      >
        <Camera size={17} aria-hidden />
        {words}
      </button>
      <Dropdown
        label="Kind of file, frames only, draft or proof"
        className="btn btn-primary btn-sm rounded-l-none border-l border-l-primary-content/40 px-1.5"
        summary={<ChevronDown size={17} aria-hidden />}
      >
        {(close) => (
          <ul className="dropdown-content z-40 mt-1 w-80 rounded-box border rule bg-base-100 p-1 shadow-lg">
            <li className="px-3 py-1.5">
              <KindOfFile capture={capture} edit={edit} />
            </li>
            {part(
              close,
              `Proof of frame ${frame}`,
              "One frame at full size and quality",
              <Film size={16} className="mt-0.5" aria-hidden />,
              onProof,
            )}
            {part(
              close,
              `Draft, make ${file}`,
              "All frames, small, with one sample",
              <Zap size={16} className="mt-0.5" aria-hidden />,
              () => order({ draft: true, to_file: true }),
            )}
            {part(
              close,
              "Frames only",
              "No video file is made yet",
              <Images size={16} className="mt-0.5" aria-hidden />,
              () => order({ draft: false, to_file: false }),
            )}
            {part(
              close,
              shot.document.sweep ? "Change the variants" : "Add variants",
              "Other dials, light or lens, on a contact sheet",
              <LayoutGrid size={16} className="mt-0.5" aria-hidden />,
              onVariants,
            )}
            <li className="border-t rule px-3 py-2">
              <CostPanel shot={shot} />
            </li>
            <li className="border-t rule px-3 py-2">
              <LimitsOfRun limits={capture.limits} onChange={capture.setLimits} />
            </li>
          </ul>
        )}
      </Dropdown>
    </div>
  );
}

/** What the frames are made into, remembered with the shot. */
function KindOfFile({ capture: { recipe, recipes }, edit }: Pick<Props, "capture" | "edit">) {
  const { first, groups } = grouped(recipes);
  const option = ({ name, about }: FullRecipe) => (
    <option key={name} value={name}>
      {about}
    </option>
  );
  return (
    <label className="block">
      <span className="block font-semibold">Kind of file</span>
      <select
        className="select select-sm mt-1 w-full"
        aria-label="Kind of file"
        value={recipe?.name ?? ""}
        onChange={(event) => edit({ recipe: event.target.value }, "the kind of file")}
      >
        {first.map(option)}
        {groups.map(({ group, label, rows }) => (
          <optgroup key={group} label={label}>
            {rows.map(option)}
          </optgroup>
        ))}
      </select>
    </label>
  );
}
