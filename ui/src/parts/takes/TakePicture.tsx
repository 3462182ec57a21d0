import type { Run } from "../../api/client";

/** A frame from the middle of a take, small. */
export function TakePicture({ run }: { run: Run }) {
  const there = run.made + run.kept;
  const middle = Math.floor(there / 2);
  return (
    <span className="well flex h-[42px] w-[72px] shrink-0 items-center justify-center overflow-hidden rounded-sm">
      {there > 0 && (
        <img
          src={`/api/runs/${run.id}/frames/${middle - (middle % run.camera_passes.length)}.png?small=1`}
          alt=""
          loading="lazy"
          className="max-h-full max-w-full"
          onError={(event) => {
            event.currentTarget.hidden = true;
          }}
        />
      )}
    </span>
  );
}
