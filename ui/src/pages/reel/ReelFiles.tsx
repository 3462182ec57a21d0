import { useQuery } from "@tanstack/react-query";
import { outputsQuery } from "../../api/fileQueries";
import { Dropdown } from "../../parts/Dropdown";
import { count } from "../../parts/format";
import { Making, OutputLine } from "../runs/OutputLine";
import { active } from "../runs/words";
import type { ReelData } from "./reelItems";

/** The progress of the file that is being made, and the files made before. */
export function ReelFiles({ reel }: { reel: ReelData }) {
  const { data } = useQuery(outputsQuery);
  const files = (data?.outputs ?? []).filter((one) => one.reel === reel.id);
  // Files of several sizes are made one after another: the one that is being made is shown.
  const going = files.filter(active);
  const newest = going.find((one) => one.state === "running") ?? going.at(-1) ?? files[0];
  if (!newest) return null;
  return (
    <>
      {active(newest) && <Making output={newest} />}
      <Dropdown
        summary={
          newest.state === "done"
            ? count(files.length, "file")
            : newest.state === "running"
              ? `Making ${count(going.length, "file")}`
              : newest.state === "queued"
                ? "Queued"
                : newest.state === "stopped"
                  ? "Stopped"
                  : "The file failed"
        }
        className="btn btn-ghost btn-xs whitespace-nowrap"
      >
        {() => (
          <ul
            className="dropdown-content z-30 max-h-96 w-[28rem] overflow-auto rounded-box border rule bg-base-100 px-3"
            data-testid="reel-files"
          >
            {files.slice(0, 20).map((file) => (
              <OutputLine key={file.id} output={file} />
            ))}
          </ul>
        )}
      </Dropdown>
    </>
  );
}
