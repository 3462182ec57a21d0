import { ArrowDown, ArrowUp, X } from "lucide-react";
import { FormRows } from "../../form/FormRows";
import { Row } from "../../form/Row";
import { NumberEntry } from "../../parts/entries/NumberEntry";
import { ItemRows, type SetValues } from "./ItemRows";
import type { Item, ReelData } from "./reelItems";
import { moved, partsOf } from "./reelItems";
import { Tool } from "./sheetParts";

type Layout = Extract<Item, { kind: "layout" }>;
type Group = Extract<Item, { kind: "group" }>;
type Cell = Layout["cells"][number];

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
      <ItemRows item={item} set={set} />
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
      <div>
        <FormRows form="cells" values={item.cells[0]} onSet={all} />
      </div>
      <ol className="flex flex-col gap-2" aria-label="Layout">
        {item.cells.map((one, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a cell's place is its identity
          <li key={at} className="flex flex-col gap-1.5 rounded-box border p-2 rule">
            <PartHead
              name={parts[at]?.name ?? ""}
              at={at}
              count={item.cells.length}
              onMove={(to) => cells((now) => moved(now, at, to), "the order")}
              onTakeOut={() => onTakeOut(at)}
            />
            <div>
              <FormRows
                form="cell"
                values={one}
                of={` of ${parts[at]?.name}`}
                onSet={(values, what) => cell(at, () => values, what)}
              />
            </div>
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

/** The items of a group. */
export function GroupParts({
  item,
  parts,
  set,
  onTakeOut,
}: { item: Group; parts: Shown[]; set: SetValues } & Taking) {
  const items = item.items as Item[];
  return (
    <ol className="flex flex-col gap-2" aria-label="Items of the group">
      {items.map((one, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an item's place is its identity
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
        <ItemRows item={item} passes={passes as [string, string][]} set={set} />
      </div>
    </details>
  );
}
