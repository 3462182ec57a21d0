interface Props<T extends string | number> {
  values: readonly T[];
  current?: T;
  onChoose: (value: T) => void;
  /** What a value is called, where that is not itself. */
  named?: (value: T) => string;
  className?: string;
}

/** Usual values to choose from, beside a field for any other. */
export function Presets<T extends string | number>(props: Props<T>) {
  const { values, current, onChoose, named = String, className = "" } = props;
  return (
    <span className={`flex flex-wrap gap-1 ${className}`}>
      {values.map((value) => (
        <button
          key={value}
          type="button"
          className={`btn btn-xs figures font-normal ${value === current ? "btn-primary" : ""}`}
          onClick={() => onChoose(value)}
        >
          {named(value)}
        </button>
      ))}
    </span>
  );
}
