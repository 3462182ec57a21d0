interface Props<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string; hint?: string }[];
  onChoose: (value: T) => void;
}

/** One of a few, side by side. */
export function Choice<T extends string>({ label, value, options, onChoose }: Props<T>) {
  const sides = options.length > 3 ? "px-1.5" : "px-2";
  return (
    <fieldset className="join" aria-label={label}>
      {options.map((option) => (
        <button
          key={option.value}
          type="button"
          title={option.hint}
          aria-pressed={option.value === value}
          className={`btn join-item btn-sm font-normal text-small ${sides} ${option.value === value ? "btn-primary" : "btn-outline border-base-content/40"}`}
          onClick={() => option.value !== value && onChoose(option.value)}
        >
          {option.label}
        </button>
      ))}
    </fieldset>
  );
}
