import { Rotate3d } from "lucide-react";

interface Props {
  around: boolean;
  onAround: (around: boolean) => void;
}

/** Switches between a panorama as it lies flat and the view from its middle. */
export function AroundButton({ around, onAround }: Props) {
  return (
    <button
      type="button"
      className={`btn btn-xs font-normal ${around ? "btn-active" : ""}`}
      aria-label="Look around in the panorama"
      title="Look around in the panorama"
      aria-pressed={around}
      onClick={() => onAround(!around)}
    >
      <Rotate3d size={14} aria-hidden /> Inside
    </button>
  );
}
