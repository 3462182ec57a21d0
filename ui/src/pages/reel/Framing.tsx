import { useState } from "react";
import { FormRows } from "../../form/FormRows";
import type { SetValues } from "./ItemRows";
import { framePictureOf, type Item, type ReelData, type ReelFormat } from "./reelItems";

interface Props {
  reel: ReelData;
  number: number;
  item: Item;
  /** The format that is shown; none for the reel's own size. */
  format: ReelFormat | null;
  set: SetValues;
}

type ItemFraming = NonNullable<Item["framing"]>[string];
type Point = [number, number];
type Size = [number, number];

/** How an item is placed in the format that is shown: which part of its picture stays. */
export function Framing({ reel, number, item, format, set }: Props) {
  const shown = reel.items[number];
  const own: Partial<ItemFraming> = (format && item.framing?.[format.name]) || {};
  const size: Size | null = shown && shown.width > 0 ? [shown.width, shown.height] : null;
  const fit = own.fit ?? (format && item.fit !== "none" ? format.fit : item.fit) ?? "contain";
  const focus: Point = [own.focus_x ?? item.focus_x ?? 0.5, own.focus_y ?? item.focus_y ?? 0.5];
  const place = (values: Record<string, unknown>, what: string) =>
    set(
      (now) =>
        format
          ? { framing: { ...now.framing, [format.name]: { ...now.framing?.[format.name], ...values } } }
          : values,
      what,
    );
  const { width = 1920, height = 1080 } = format ?? reel.document;
  const part = size && shownPart(size, [width, height], fit);
  if (!format && !part) return null;
  return (
    <section className="flex flex-col gap-1.5 rounded-box border p-2 rule" aria-label="Framing">
      <h3 className="font-semibold">
        {format ? `Framing in ${format.name}` : "Framing"}{" "}
        <span className="quiet figures font-normal">
          {width} × {height}
        </span>
      </h3>
      {size && shown && part && (
        <FocusPad
          source={framePictureOf(reel, number, Math.floor(shown.media / 2), 480)}
          size={size}
          part={part}
          focus={focus}
          onFocus={([focus_x, focus_y]) => place({ focus_x, focus_y }, "the focus")}
        />
      )}
      {format && (
        <FormRows
          form="framing"
          values={own}
          known={{
            shows: size ? "pictures" : item.kind === "layout" ? "cells" : item.kind === "title" ? "text" : "",
            cropped: part !== null,
            cells: item.kind === "layout" ? item.cells.length : 0,
          }}
          onSet={place}
        />
      )}
    </section>
  );
}

/** Width and height of what stays of a picture, as shares of it; null where all of it does. */
function shownPart([wide, high]: Size, [width, height]: Size, fit: string): Size | null {
  const scale = fit === "none" ? 1 : fit === "cover" ? Math.max(width / wide, height / high) : 0;
  if (scale === 0) return null;
  const part: Size = [Math.min(width / (wide * scale), 1), Math.min(height / (high * scale), 1)];
  return part[0] > 0.999 && part[1] > 0.999 ? null : part;
}

const percent = (share: number) => `${share * 100}%`;

/** The whole picture of an item, with the part that stays; dragging moves that part. */
function FocusPad({
  source,
  size,
  part,
  focus,
  onFocus,
}: {
  source: string;
  size: Size;
  part: Size;
  focus: Point;
  onFocus: (focus: Point) => void;
}) {
  const [moved, setMoved] = useState<Point | null>(null);
  const at = moved ?? focus;
  const [left, top] = ([0, 1] as const).map((axis) =>
    Math.min(Math.max(at[axis] - part[axis] / 2, 0), 1 - part[axis]),
  ) as Point;
  const edges: [number, number, number, number] = [top, 1 - left - part[0], 1 - top - part[1], left];
  const under = (event: React.PointerEvent<HTMLElement>): Point => {
    const box = event.currentTarget.getBoundingClientRect();
    const share = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    // A point nearer to an edge than half of the part changes nothing.
    return share.map((one, axis) => {
      const half = (part[axis] ?? 1) / 2;
      return part[axis] === 1
        ? (focus[axis] ?? 0.5)
        : Number(Math.min(Math.max(one, half), 1 - half).toFixed(3));
    }) as Point;
  };
  return (
    <div
      className="relative max-h-44 cursor-move touch-none self-center overflow-hidden rounded bg-black"
      style={{
        aspectRatio: `${size[0]} / ${size[1]}`,
        ...(size[0] >= size[1] ? { width: "100%" } : { height: "11rem" }),
      }}
      title="Drag to choose the part that stays"
      data-testid="focus-pad"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setMoved(under(event));
      }}
      onPointerMove={(event) => moved && setMoved(under(event))}
      onPointerUp={(event) => {
        onFocus(under(event));
        setMoved(null);
      }}
      onPointerCancel={() => setMoved(null)}
    >
      <img src={source} alt="" draggable={false} className="h-full w-full opacity-40" />
      <img
        src={source}
        alt=""
        draggable={false}
        className="absolute inset-0 h-full w-full"
        style={{ clipPath: `inset(${edges.map(percent).join(" ")})` }}
      />
      <div
        className="absolute rounded-xs border-2 border-white"
        style={{
          top: percent(edges[0]),
          right: percent(edges[1]),
          bottom: percent(edges[2]),
          left: percent(edges[3]),
        }}
      />
    </div>
  );
}
