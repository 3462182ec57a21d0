import { type KeyboardEvent, useRef } from "react";

interface Props {
  label: string;
  tabs: string[];
  chosen: number;
  /** The id of the element that shows what the chosen tab is about. */
  panel: string;
  onChoose: (tab: number) => void;
}

/** Tabs of one panel: one stop of the Tab key, arrow keys go from one to the next (ARIA's pattern for tabs). */
export function TabList({ label, tabs, chosen, panel, onChoose }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const onKeyDown = (event: KeyboardEvent) => {
    const to = { ArrowRight: chosen + 1, ArrowLeft: chosen - 1, Home: 0, End: tabs.length - 1 }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const next = (to + tabs.length) % tabs.length;
    onChoose(next);
    list.current?.querySelectorAll<HTMLElement>("[role=tab]")[next]?.focus();
  };
  return (
    <div ref={list} className="contents" role="tablist" aria-label={label} onKeyDown={onKeyDown}>
      {tabs.map((name, n) => (
        <button
          key={name}
          type="button"
          role="tab"
          id={`${panel}-${n}`}
          aria-selected={n === chosen}
          aria-controls={panel}
          tabIndex={n === chosen ? 0 : -1}
          className={`btn btn-xs font-normal ${n === chosen ? "btn-primary" : ""}`}
          onClick={() => onChoose(n)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
