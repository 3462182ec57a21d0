import { ArrowDown, ArrowUp, X } from "lucide-react";
import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import { PlayedRows, RepeatEntry, type SetValues, SpeedEntry } from "./ItemRows";
import type { Item, ReelData } from "./reelItems";
import { moved, partsOf } from "./reelItems";
import { Choice, Row, Tool } from "./sheetParts";

type Layout = Extract<Item, { kind: "layout" }>;
type Group = Extract<Item, { kind: "group" }>;
type Cell = Layout["cells"][number];

const ARRANGEMENTS = {
  row: "side by side",
  column: "stacked",
  grid: "a grid",
  large: "one large, others small",
  inset: "one in the other",
  divided: "a dividing line",
};

/** A dividing line has two sides. */
const { divided: _, ...OTHERS } = ARRANGEMENTS;
const UNDIVIDED = OTHERS as typeof ARRANGEMENTS;

/** What is known of an item within another. */
type Shown = ReelData["items"][number]["parts"][number];

interface Taking {
  /** Takes the n-th out again, to stand after the item. */
  onTakeOut: (part: number) => void;
}

/** How the items of a layout lie, and each of them. */
export function LayoutRows({
  item,
  parts,
  set,
  onTakeOut,
}: { item: Layout; parts: Shown[]; set: SetValues } & Taking) {
  const kind = item.arrangement ?? "row";
  const cells = (make: (now: Cell[]) => Cell[], what: string) =>
    set((now) => ({ cells: make((now as Layout).cells) }), what);
  const cell = (at: number, make: (now: Cell) => Partial<Cell>, what: string) =>
    cells((now) => now.map((one, n) => (n === at ? { ...one, ...make(one) } : one)), what);
  const all = (values: Partial<Cell>, what: string) =>
    cells((now) => now.map((one) => ({ ...one, ...values })), what);
  return (
    <>
      <Row name="As">
        <Choice
          label="Arrangement"
          value={kind}
          options={item.cells.length === 2 || kind === "divided" ? ARRANGEMENTS : UNDIVIDED}
          onPick={(arrangement) => set({ arrangement }, "the arrangement")}
        />
      </Row>
      {kind === "grid" && (
        <Row name="Columns">
          <NumberEntry
            label="Columns"
            whole
            width="4.5rem"
            min={0}
            max={64}
            value={item.columns ?? 0}
            onCommit={(columns) => set({ columns }, "the columns")}
          />
          <span className="quiet text-note">0: as many as rows</span>
        </Row>
      )}
      {(kind === "large" || kind === "inset") && (
        <Row name="Share">
          <NumberEntry
            label="Share of the frame"
            width="4.5rem"
            min={0.05}
            max={0.95}
            value={item.share ?? 0.7}
            onCommit={(share) => set({ share }, "the share")}
          />
        </Row>
      )}
      {kind === "divided" && (
        <Row name="Line">
          {(["begin", "end"] as const).map((end, at) => (
            <NumberEntry
              key={end}
              label={`Dividing line at the ${end}`}
              width="4rem"
              min={0}
              max={1}
              value={(at === 0 ? item.divider?.[0]?.[1] : item.divider?.at(-1)?.[1]) ?? 0.5}
              onCommit={(place) => {
                set((now) => {
                  const line = (now as Layout).divider ?? [];
                  const [from, to] = [line[0]?.[1] ?? 0.5, line.at(-1)?.[1] ?? 0.5];
                  const ends = at === 0 ? [place, to] : [from, place];
                  return { divider: ends.map((one, phase) => [phase, one]) };
                }, "the dividing line");
              }}
            />
          ))}
          <span className="quiet text-note">from, to; 0 is the left edge</span>
        </Row>
      )}
      <Row name="Margin">
        <NumberEntry
          label="Margin around each"
          width="4rem"
          min={0}
          max={0.45}
          value={item.cells[0]?.margin ?? 0}
          onCommit={(margin) => all({ margin }, "the margin")}
        />
        <span>border</span>
        <NumberEntry
          label="Border of each"
          width="4rem"
          min={0}
          max={0.2}
          value={item.cells[0]?.border ?? 0}
          onCommit={(border) => all({ border }, "the border")}
        />
      </Row>
      <ol className="flex flex-col gap-2" aria-label="Items at once">
        {item.cells.map((one, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: cells are told by their place
          <li key={at} className="flex flex-col gap-1.5 rounded-box border p-2 rule">
            <PartHead
              name={parts[at]?.name ?? ""}
              at={at}
              count={item.cells.length}
              onMove={(to) => cells((now) => moved(now, at, to), "the order")}
              onTakeOut={() => onTakeOut(at)}
            />
            <Row name="Caption">
              <TextEntry
                label={`Caption of ${parts[at]?.name}`}
                width="9rem"
                value={one.caption ?? ""}
                placeholder="none"
                onCommit={(caption) => cell(at, () => ({ caption }), "the caption")}
              />
            </Row>
            <Row name="Later by">
              <NumberEntry
                label={`Frames by which ${parts[at]?.name} begins later`}
                whole
                width="4.5rem"
                min={-1000000}
                value={one.offset ?? 0}
                onCommit={(offset) => cell(at, () => ({ offset }), "the offset")}
              />
              <span className="quiet text-note">frames</span>
            </Row>
            <Frames
              item={one.item as Item}
              passes={parts[at]?.passes}
              set={(values, what) =>
                cell(at, (now) => ({ item: withValues(now.item as Item, values) as Cell["item"] }), what)
              }
            />
          </li>
        ))}
      </ol>
    </>
  );
}

/** How a group is played, and its items. */
export function GroupRows({
  item,
  parts,
  set,
  onTakeOut,
}: { item: Group; parts: Shown[]; set: SetValues } & Taking) {
  const items = item.items as Item[];
  return (
    <>
      <RepeatRow item={item} set={set} />
      <Row name="Course">
        <TextEntry
          label="Course of the group's time"
          width="9rem"
          value={item.ease ?? "linear"}
          onCommit={(ease) => set({ ease }, "the course of time")}
        />
        <span className="quiet text-note">linear, ease…</span>
      </Row>
      <ol className="flex flex-col gap-2" aria-label="Items of the group">
        {items.map((one, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: items are told by their place
          <li key={at} className="flex flex-col gap-1.5 rounded-box border p-2 rule">
            <PartHead
              name={parts[at]?.name ?? ""}
              at={at}
              count={items.length}
              onMove={(to) => set((now) => ({ items: moved(partsOf(now), at, to) }), "the order")}
              onTakeOut={() => onTakeOut(at)}
            />
            <Frames
              item={one}
              passes={parts[at]?.passes}
              set={(values, what) =>
                set(
                  (now) => ({
                    items: partsOf(now).map((part, n) => (n === at ? withValues(part, values) : part)),
                  }),
                  what,
                )
              }
            />
          </li>
        ))}
      </ol>
    </>
  );
}

/** How often and how fast a group, or another reel, is played. */
export function RepeatRow({ item, set }: { item: Group | Extract<Item, { kind: "reel" }>; set: SetValues }) {
  return (
    <Row name="Repeat">
      <RepeatEntry item={item} set={set} />
      <span>speed</span>
      <SpeedEntry item={item} set={set} />
    </Row>
  );
}

const withValues = (item: Item, values: Parameters<SetValues>[0]) =>
  ({ ...item, ...(typeof values === "function" ? values(item) : values) }) as Item;

function PartHead({
  name,
  at,
  count,
  onMove,
  onTakeOut,
}: {
  name: string;
  at: number;
  count: number;
  onMove: (to: number) => void;
  onTakeOut: () => void;
}) {
  return (
    <div className="flex items-center gap-1">
      <span className="min-w-0 flex-1 truncate font-semibold">{name}</span>
      <Tool label={`${name} earlier`} disabled={at === 0} onPress={() => onMove(at - 1)}>
        <ArrowUp size={14} aria-hidden />
      </Tool>
      <Tool label={`${name} later`} disabled={at === count - 1} onPress={() => onMove(at + 1)}>
        <ArrowDown size={14} aria-hidden />
      </Tool>
      <Tool label={`Take ${name} out`} disabled={count === 1} onPress={onTakeOut}>
        <X size={14} aria-hidden />
      </Tool>
    </div>
  );
}

/** What is played of an item within another. */
function Frames({ item, passes, set }: { item: Item; passes?: Shown["passes"]; set: SetValues }) {
  if (item.kind !== "take" && item.kind !== "shot" && item.kind !== "clip" && item.kind !== "stills")
    return null;
  return (
    <details>
      <summary className="cursor-pointer">What is played</summary>
      <div className="mt-1.5 flex flex-col gap-2">
        <PlayedRows item={item} passes={passes as [string, string][]} set={set} />
      </div>
    </details>
  );
}
