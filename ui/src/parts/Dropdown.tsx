import { type ReactNode, useRef, useState } from "react";

interface Props {
  /** What opens it. */
  summary: ReactNode;
  label?: string;
  title?: string;
  className: string;
  /** Where it opens. */
  place?: string;
  children: (close: () => void) => ReactNode;
}

/** Something that a press opens and Escape, or leaving it, closes; closed, nothing of it is there. */
export function Dropdown({ summary, label, title, className, place = "dropdown-end", children }: Props) {
  const box = useRef<HTMLDetailsElement>(null);
  const [open, setOpen] = useState(false);
  const close = () => {
    if (box.current) box.current.open = false;
  };
  return (
    <details
      ref={box}
      className={`dropdown ${place}`}
      onToggle={(event) => setOpen(event.currentTarget.open)}
      onKeyDown={(event) => {
        if (event.key !== "Escape" || !box.current?.open) return;
        close();
        box.current.querySelector("summary")?.focus();
        event.stopPropagation();
      }}
      onBlur={(event) => {
        if (event.relatedTarget && !box.current?.contains(event.relatedTarget)) close();
      }}
    >
      <summary className={className} aria-label={label} title={title}>
        {summary}
      </summary>
      {open && children(close)}
    </details>
  );
}
