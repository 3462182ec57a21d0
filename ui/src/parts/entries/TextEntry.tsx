import { Entry, type EntryProps } from "./Entry";

interface Props extends EntryProps {
  value: string;
  onCommit: (value: string) => void;
}

/** Typed text: applied on Enter or when it loses the focus; Escape restores the old one. */
export function TextEntry({ value, onCommit, ...props }: Props) {
  // Nothing is not taken where it has no meaning.
  const read = (text: string) => ({ value: text || (props.placeholder ? "" : value) });
  return <Entry {...props} shown={value} read={read} onCommit={(text) => text !== value && onCommit(text)} />;
}
