import { type DragEvent, useLayoutEffect, useRef, useState } from "react";
import { Card } from "./Card";
import { itemDropped, mayDrop } from "./dropping";
import { Ruler, type Unit } from "./Ruler";
import { type Item, itemsOf, type ReelData, type Selection } from "./reelItems";
import { SoundRows } from "./SoundRow";
import { scaleOf } from "./scale";
import type { Trim } from "./trim";

interface Props {
  reel: ReelData;
  frame: number;
  unit: Unit;
  selection: Selection;
  onSelect: (selection: Selection) => void;
  onFrame: (frame: number) => void;
  onMove: (from: number, to: number) => void;
  onRemove: (first: number, last: number) => void;
  onDropItem: (item: Item, at: number) => void;
  onDropFiles: (files: File[], at: number) => void;
  onTrim: (trim: Trim | null) => void;
  onTrimmed: (trim: Trim) => void;
}

/** Items as cards whose width is their duration, transitions between them, and a ruler below. */
export function Cards(props: Props) {
  const { reel, onMove, onDropItem, onDropFiles } = props;
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ width: 1200, left: 0 });
  const [dragged, setDragged] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const look = () => setView({ width: element.clientWidth, left: element.scrollLeft });
    const watch = new ResizeObserver(look);
    watch.observe(element);
    element.addEventListener("scroll", look, { passive: true });
    look();
    return () => {
      watch.disconnect();
      element.removeEventListener("scroll", look);
    };
  }, []);
  const items = itemsOf(reel);
  const scale = scaleOf(reel, view.width);
  /** Before which item something that is held there would come. */
  const placeAt = (event: DragEvent) => {
    const left = event.clientX - (box.current?.getBoundingClientRect().left ?? 0) + view.left;
    const middles = items.map((_, at) => ((scale.edges[at] ?? 0) + (scale.edges[at + 1] ?? 0)) / 2);
    const after = middles.findIndex((middle) => left < middle);
    return after < 0 ? items.length : after;
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    const at = placeAt(event);
    const item = itemDropped(event);
    if (dragged !== null) onMove(dragged, at > dragged ? at - 1 : at);
    else if (item) onDropItem(item, at);
    else if (event.dataTransfer.files.length > 0) onDropFiles([...event.dataTransfer.files], at);
    setDragged(null);
    setOver(null);
  };
  // Of thousands of items those are drawn that are seen, and as many again on both sides.
  const near = (at: number) =>
    (scale.edges[at + 1] ?? 0) > view.left - view.width &&
    (scale.edges[at] ?? 0) < view.left + 2 * view.width;
  return (
    <section
      ref={box}
      aria-label="Row of the reel"
      data-testid="cards"
      className="relative shrink-0 overflow-x-auto pb-1"
      onDragOver={(event) => {
        if (dragged === null && !mayDrop(event)) return;
        event.preventDefault();
        setOver(placeAt(event));
      }}
      onDragLeave={(event) => {
        if (!box.current?.contains(event.relatedTarget as Node | null)) setOver(null);
      }}
      onDrop={drop}
    >
      {items.length === 0 ? (
        <p
          className={`quiet flex h-20 items-center justify-center rounded-box border-2 border-dashed text-small ${over === null ? "rule" : "border-primary"}`}
        >
          Drop takes, shots or files here
        </p>
      ) : (
        <>
          <ol className="relative h-20" style={{ width: scale.width }} aria-label="Items">
            {reel.items.map(
              (item, number) =>
                near(number) && (
                  <Card
                    key={`${reel.starts[number]} ${item.name}`}
                    {...props}
                    items={items}
                    number={number}
                    left={scale.edges[number] ?? 0}
                    width={(scale.edges[number + 1] ?? 0) - (scale.edges[number] ?? 0)}
                    perFrame={scale.perFrame(number)}
                    dragged={dragged === number}
                    onDrag={setDragged}
                  />
                ),
            )}
          </ol>
          <SoundRows reel={reel} scale={scale} onOpen={() => props.onSelect({ of: "reel" })} />
          <Ruler reel={reel} scale={scale} unit={props.unit} frame={props.frame} onFrame={props.onFrame} />
        </>
      )}
      {over !== null && items.length > 0 && (
        <span
          aria-hidden
          className="pointer-events-none absolute top-0 z-20 h-20 w-1 rounded bg-primary"
          style={{ left: Math.max((scale.edges[over] ?? scale.width) - 2, 0) }}
        />
      )}
    </section>
  );
}
