import type { Run } from "../../api/client";
import { Dropdown } from "../Dropdown";
import { TakePicture } from "./TakePicture";
import { takeSettings, takeTitle } from "./takeText";

interface Other {
  id: string;
  title: string;
  settings: string;
}

interface Props {
  label: string;
  /** The chosen one. */
  value: string;
  takes: Run[];
  onTake: (run: Run) => void;
  /** What else can be chosen, after the takes. */
  others?: Other[];
  onOther?: (id: string) => void;
}

/** Chooses a take by its picture and settings; the newest comes first. */
export function TakeChoice({ label, value, takes, onTake, others = [], onOther }: Props) {
  return (
    <Dropdown
      label={`${label}: ${value}`}
      place=""
      className="select select-sm w-72 max-w-full cursor-pointer"
      summary={<span className="min-w-0 truncate">{value}</span>}
    >
      {(close) => (
        <ul className="dropdown-content menu z-20 mt-1 max-h-96 w-[27rem] max-w-[90vw] flex-nowrap overflow-auto rounded-box border rule bg-base-100 p-1 text-small">
          {takes.map((run) => (
            <li key={run.id}>
              <button
                type="button"
                onClick={() => {
                  close();
                  onTake(run);
                }}
              >
                <TakePicture run={run} />
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{takeTitle(run)}</span>
                  <span className="quiet figures block truncate text-note">{takeSettings(run)}</span>
                </span>
              </button>
            </li>
          ))}
          {others.map((other) => (
            <li key={other.id}>
              <button
                type="button"
                onClick={() => {
                  close();
                  onOther?.(other.id);
                }}
              >
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{other.title}</span>
                  <span className="quiet figures block truncate text-note">{other.settings}</span>
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </Dropdown>
  );
}
