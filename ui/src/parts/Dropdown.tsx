import { type ReactNode, useEffect, useRef, useState } from "react";

interface Props {
  /** What opens it. */
  summary: ReactNode;
  label?: string;
  title?: string;
  className: string;
  /** Where it opens. */
  place?: string;
  /** Over everything, where the place that holds it scrolls and would cut it off. */
  floating?: boolean;
  children: (close: () => void) => ReactNode;
}

/** Something that a press opens and Escape, or leaving it, closes; closed, nothing of it is there. */
export function Dropdown({
  summary,
  label,
  title,
  className,
  place = "dropdown-end",
  floating,
  children,
}: Props) {
  const box = useRef<HTMLDetailsElement>(null);
  const [open, setOpen] = useState(false);
  useEffect(() => {
    if (!floating || !open) return;
    const onScroll = () => {
      if (box.current) box.current.open = false;
    };
    addEventListener("scroll", onScroll, true);
    return () => removeEventListener("scroll", onScroll, true);
  }, [floating, open]);
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
      {open &&
        (floating ? (
          <div className="fixed z-50" style={beside(box.current)}>
            {children(close)}
          </div>
        ) : (
          children(close)
        ))}
    </details>
  );
}

/** Below what opened it, or above it in the lower half of the window. */
function beside(box: HTMLElement | null) {
  const { top = 0, bottom = 0, right = 0 } = box?.getBoundingClientRect() ?? {};
  const across = { right: innerWidth - right };
  return bottom > innerHeight / 2 ? { ...across, bottom: innerHeight - top } : { ...across, top: bottom };
}
