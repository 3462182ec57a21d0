import { type ReactNode, useState } from "react";
import { ErrorAlert } from "../../parts/ErrorAlert";

export function Box({ name, about, children }: { name: string; about: string; children: ReactNode }) {
  return (
    <section
      aria-label={name}
      className="flex flex-col gap-2 rounded-box border rule bg-base-100 p-3 text-small"
      data-testid="reel-sheet"
    >
      <div>
        <h2 className="truncate text-base font-semibold">{name}</h2>
        <p className="quiet break-words text-note">{about}</p>
      </div>
      {children}
    </section>
  );
}

export function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2">
      <span className="w-20 shrink-0">{name}</span>
      {children}
    </div>
  );
}

export function Tool({
  label,
  disabled,
  onPress,
  children,
}: {
  label: string;
  disabled?: boolean;
  onPress: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={label}
      title={label}
      disabled={disabled}
      onClick={onPress}
    >
      {children}
    </button>
  );
}

export function Choice<K extends string>({
  label,
  value,
  options,
  onPick,
}: {
  label: string;
  value: K;
  options: Record<K, string>;
  onPick: (value: K) => void;
}) {
  return (
    <select
      className="select select-sm w-auto"
      aria-label={label}
      value={value}
      onChange={(event) => onPick(event.target.value as K)}
    >
      {(Object.keys(options) as K[]).map((one) => (
        <option key={one} value={one}>
          {options[one]}
        </option>
      ))}
    </select>
  );
}

/** The whole object as JSON, for settings without a control. */
export function AsJson({
  value,
  name = "All of it as JSON",
  onCommit,
}: {
  value: unknown;
  name?: string;
  onCommit: (value: Record<string, unknown>) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState("");
  return (
    <details>
      <summary className="cursor-pointer">{name}</summary>
      <textarea
        rows={10}
        spellCheck={false}
        className="figures mt-1 block w-full rounded-box border rule bg-base-100 p-2 text-note"
        aria-label={name}
        value={text ?? JSON.stringify(value, null, 1)}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => {
          if (text === null) return;
          try {
            onCommit(JSON.parse(text) as Record<string, unknown>);
            setText(null);
            setWrong("");
          } catch (error) {
            setWrong(`This is not JSON: ${(error as Error).message}`);
          }
        }}
      />
      <ErrorAlert error={wrong} />
    </details>
  );
}
