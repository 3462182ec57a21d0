import type { Run } from "../../api/client";

interface Props {
  run: Run;
  label: string;
  cameraPass: number;
  onCameraPass: (cameraPass: number) => void;
  className?: string;
}

/** Which of a take's cameras with which pass; nothing where there is one. */
export function PassChoice({ run, label, cameraPass, onCameraPass, className = "" }: Props) {
  if (run.camera_passes.length === 1) return null;
  return (
    <select
      className={`entry font-sans ${className}`}
      aria-label={label}
      value={cameraPass}
      onChange={(event) => onCameraPass(Number(event.target.value))}
    >
      {run.camera_passes.map((name, n) => (
        <option key={name} value={n}>
          {name}
        </option>
      ))}
    </select>
  );
}
