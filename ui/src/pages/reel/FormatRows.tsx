import { Plus, X } from "lucide-react";
import { FormRows } from "../../form/FormRows";
import { freeName } from "../../parts/freeName";
import { Part } from "./ReelSettings";
import { itemsOf, type ReelData, type ReelFormat } from "./reelItems";
import { Tool } from "./sheetParts";
import type { ReelEdits } from "./useReel";

const even = (length: number) => Math.round(length / 2) * 2;

/** Usual shapes, in a size that follows from the reel's. */
const SHAPES: { name: string; ratio: string; of: (short: number) => [number, number] }[] = [
  { name: "square", ratio: "1:1", of: (short) => [short, short] },
  { name: "upright", ratio: "9:16", of: (short) => [short, even((short * 16) / 9)] },
  { name: "portrait", ratio: "4:5", of: (short) => [short, even((short * 5) / 4)] },
  { name: "wide", ratio: "16:9", of: (short) => [even((short * 16) / 9), short] },
];

/** Further sizes of the reel's files. */
export function FormatRows({ reel, edits }: { reel: ReelData; edits: ReelEdits }) {
  const { width = 1920, height = 1080, formats = [] } = reel.document;
  const taken = [[width, height], ...formats.map((one) => [one.width, one.height])].map(String);
  const offered = SHAPES.map((one) => ({ ...one, size: one.of(even(Math.min(width, height))) })).filter(
    (one) => !taken.includes(String(one.size)),
  );
  const set = (make: (now: ReelFormat[]) => ReelFormat[], what: string) =>
    edits.edit(({ document }) => ({ formats: make(document.formats ?? []) }), what);
  return (
    <Part name="Formats" count={formats.length}>
      <p className="quiet text-note">
        Further sizes of this reel, such as square or upright. Each item has its own framing in each of them.
      </p>
      {formats.map((one) => (
        <div
          key={one.name}
          className="flex flex-col gap-1.5 rounded-box border p-2 rule"
          data-testid="format"
        >
          <div className="mb-1 flex items-center gap-1">
            <span className="min-w-0 flex-1 truncate font-semibold" title={one.name}>
              {one.name}
            </span>
            <Tool label={`Remove ${one.name}`} onPress={() => edits.edit(without(one.name), "the format")}>
              <X size={14} aria-hidden />
            </Tool>
          </div>
          <FormRows
            form="format"
            values={one}
            of={` of ${one.name}`}
            onSet={(values) =>
              set(
                (now) => now.map((each) => (each.name === one.name ? { ...each, ...values } : each)),
                "the format",
              )
            }
          />
        </div>
      ))}
      <div className="flex flex-wrap gap-1.5">
        {offered.map(({ name, ratio, size }) => (
          <button
            key={name}
            type="button"
            className="btn btn-xs"
            title={`${size[0]} × ${size[1]}`}
            onClick={() =>
              set(
                (now) => [
                  ...now,
                  {
                    name: freeName(
                      name,
                      now.map((each) => each.name),
                    ),
                    width: size[0],
                    height: size[1],
                    fit: "cover",
                  },
                ],
                "the format",
              )
            }
          >
            <Plus size={14} aria-hidden /> {name} {ratio}
          </button>
        ))}
      </div>
    </Part>
  );
}

/** A reel without a format, and items without their framing in it. */
const without = (name: string) => (reel: ReelData) => {
  const framed = itemsOf(reel).flatMap((item, at) => (item.framing?.[name] ? [at] : []));
  const change = Object.fromEntries(framed.map((at) => [at, { framing: { [name]: null } }]));
  return {
    formats: (reel.document.formats ?? []).filter((one) => one.name !== name),
    ...(framed.length > 0 && { items: { change } }),
  };
};
