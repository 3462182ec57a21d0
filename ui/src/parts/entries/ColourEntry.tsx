/** A colour, committed once it is chosen, not while the picker is open. */
export function ColourEntry(props: {
  label: string;
  value: string | undefined;
  onCommit: (colour: string) => void;
}) {
  return (
    <input
      type="color"
      aria-label={props.label}
      className="h-7 w-10 cursor-pointer rounded border rule bg-transparent"
      key={props.value}
      defaultValue={props.value}
      onBlur={(event) => event.target.value !== props.value && props.onCommit(event.target.value)}
    />
  );
}
