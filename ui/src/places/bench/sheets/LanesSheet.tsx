import { useQuery } from "@tanstack/react-query";
import { Plus, Trash2 } from "lucide-react";
import type { ShotDocument } from "../../../api/client";
import { sourceQuery } from "../../../api/queries";
import { Choice } from "../../../parts/Choice";
import { Complaint } from "../../../parts/Complaint";
import { hasDials } from "../../../parts/kinds";
import { NumberEntry } from "../../../parts/NumberEntry";
import type { SheetProps } from "../Sheet";
import { Row } from "./Row";

type Lane = NonNullable<ShotDocument["lanes"]>[number];
type Key = Lane["keys"][number];
const EASES = ["linear", "ease", "ease-in", "ease-out", "ease-in-out"] as const;

export function LanesSheet({ shot, edit }: SheetProps) {
  const lanes = shot.document.lanes ?? [];
  const { data, error } = useQuery(sourceQuery(shot));
  const dials = data?.dials ?? [];
  const driven = new Set(lanes.map((lane) => lane.drive));
  const fixed = new Set(data?.settings);
  const free = dials.filter((dial) => !driven.has(`dial:${dial.name}`) && !fixed.has(dial.name));
  const save = (next: Lane[], what: string) => edit({ lanes: next }, what);
  const change = (number: number, values: Partial<Lane>, what: string) =>
    save(
      lanes.map((lane, n) => (n === number ? { ...lane, ...values } : lane)),
      what,
    );
  return (
    <>
      <Complaint error={error} />
      {lanes.length === 0 && (
        <p className="quiet mb-3 text-[13px]">
          {hasDials(shot.document.source.kind)
            ? "No dial moves yet. A lane drives a dial from one value to another over the shot."
            : `This kind of source, ${shot.document.source.kind}, has no dials to drive.`}
        </p>
      )}
      {lanes.map((lane, number) => {
        const dial = dials.find((d) => `dial:${d.name}` === lane.drive);
        const name = lane.drive.replace("dial:", "");
        return (
          <section key={lane.drive} className="mb-4 border-b rule pb-2" aria-label={`Lane ${name}`}>
            <div className="mb-2 flex items-center">
              <h3 className="flex-1 font-semibold">{name}</h3>
              <span className="quiet mr-1 text-[12px]">
                {dial ? `${dial.low} to ${dial.high} ${dial.unit}` : ""}
              </span>
              <button
                type="button"
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`Remove lane ${name}`}
                onClick={() =>
                  save(
                    lanes.filter((_, n) => n !== number),
                    `the lane ${name}`,
                  )
                }
              >
                <Trash2 size={15} aria-hidden />
              </button>
            </div>
            {lane.keys.map((key, k) => (
              <Row key={String(key[0])} name={place(k, lane.keys.length)} unit={`at phase ${key[0]}`}>
                <NumberEntry
                  label={`${name}, ${place(k, lane.keys.length)}`}
                  value={key[1] as number}
                  min={dial?.low}
                  max={dial?.high}
                  step={dial ? (dial.high - dial.low) / 100 : 1}
                  onCommit={(value) =>
                    change(
                      number,
                      { keys: lane.keys.map((old, n) => (n === k ? ([old[0], value] as Key) : old)) },
                      `the lane ${name}`,
                    )
                  }
                />
              </Row>
            ))}
            <Row name="Motion">
              <Choice
                label={`Motion of ${name}`}
                value={returns(lane) ? "back" : "there"}
                options={[
                  { value: "there", label: "there" },
                  { value: "back", label: "there and back" },
                ]}
                onChoose={(to) =>
                  change(
                    number,
                    { keys: to === "back" ? thereAndBack(lane) : there(lane) },
                    `the lane ${name}`,
                  )
                }
              />
            </Row>
            <Row name="Easing">
              <select
                className="entry"
                aria-label={`Easing of ${name}`}
                value={lane.ease}
                onChange={(event) =>
                  change(number, { ease: event.target.value as Lane["ease"] }, `the easing of ${name}`)
                }
              >
                {EASES.map((ease) => (
                  <option key={ease}>{ease}</option>
                ))}
              </select>
            </Row>
          </section>
        );
      })}
      {free.length > 0 && (
        <>
          <h3 className="mb-1.5 text-[13px] font-semibold">Drive another dial</h3>
          <div className="flex flex-wrap gap-1.5">
            {free.map((dial) => (
              <button
                key={dial.name}
                type="button"
                className="btn btn-sm font-normal"
                onClick={() =>
                  save(
                    [
                      ...lanes,
                      {
                        drive: `dial:${dial.name}`,
                        keys: [
                          [0, dial.low],
                          [1, dial.default],
                        ],
                        ease: "ease-in-out",
                      },
                    ],
                    `a lane for ${dial.name}`,
                  )
                }
              >
                <Plus size={14} aria-hidden /> {dial.name}
              </button>
            ))}
          </div>
        </>
      )}
    </>
  );
}

function place(k: number, of: number): string {
  if (k === 0) return "from";
  return k === of - 1 ? "to" : "by way of";
}

function returns(lane: Lane): boolean {
  return lane.keys.length === 3 && lane.keys[0][1] === lane.keys[2][1];
}

function thereAndBack(lane: Lane): Key[] {
  const from = lane.keys[0][1];
  const to = lane.keys[lane.keys.length - 1][1];
  return [
    [0, from],
    [0.5, to],
    [1, from],
  ];
}

function there(lane: Lane): Key[] {
  return [
    [0, lane.keys[0][1]],
    [1, lane.keys[Math.min(1, lane.keys.length - 1)][1]],
  ];
}
