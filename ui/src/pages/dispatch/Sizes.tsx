import type { Schemas } from "../../api/client";

interface Props {
  sizes: Schemas["SizeBody"][];
  /** Names of the formats of those that are chosen. */
  chosen: string[];
  onToggle: (format: string) => void;
}

/** In which sizes files of a reel are made. */
export const Sizes = ({ sizes, chosen, onToggle }: Props) =>
  sizes.map(({ format, width, height }) => (
    <label key={format} className="flex items-center gap-1.5 text-small">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={chosen.includes(format)}
        onChange={() => onToggle(format)}
      />
      <span className="figures">
        {width} × {height}
      </span>
      {format}
    </label>
  ));
