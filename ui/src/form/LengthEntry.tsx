import { Entry, type EntryProps, type Reading } from "../parts/entries/Entry";
import { numberIn } from "../parts/entries/typedNumber";
import { short } from "../parts/format";

interface Length {
  seconds: number | null;
  frames: number | null;
}

interface Props extends EntryProps, Length {
  onCommit: (length: Length) => void;
}

/** A length in seconds or in frames, or none. */
export function LengthEntry({ seconds, frames, onCommit, ...props }: Props) {
  const shown = frames ? `${frames} f` : seconds ? `${short(seconds, 4)} s` : "";
  const read = (text: string): Reading<Length> => {
    if (text === "") return { value: { seconds: null, frames: null } };
    const [, amount, unit] = /^(.*?)\s*(f|frames?|s|seconds?)?$/.exec(text) ?? ["", text, ""];
    const counted = unit?.startsWith("f") ?? false;
    const found = numberIn(amount, props.label, counted ? { whole: true, min: 1 } : { above: 0 });
    if ("wrong" in found) return found;
    return {
      value: counted ? { seconds: null, frames: found.value } : { seconds: found.value, frames: null },
    };
  };
  return <Entry {...props} shown={shown} read={read} onCommit={onCommit} />;
}
