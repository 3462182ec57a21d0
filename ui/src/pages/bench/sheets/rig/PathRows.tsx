import { Plus, X } from "lucide-react";
import { PointEntry } from "../../../../form/PointEntry";
import { Row } from "../../../../form/Row";
import { Choice } from "../../../../parts/entries/Choice";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { short } from "../../../../parts/format";
import type { Edit } from "../../edit";
import type { PathRig } from "../../rigs";

type Key = PathRig["keys"][number];

/** What the camera looks at and how fast it goes, for which keys may have to say more. */
export function PathLooks({ rig, edit }: { rig: PathRig; edit: Edit }) {
  const set = (values: object, what: string) => edit({ camera: { rig: values } }, what);
  return (
    <>
      <Row name="Look at">
        <Choice
          label="What the camera looks at"
          value={rig.looks}
          options={[
            { value: "subject", label: "subject" },
            { value: "along", label: "path" },
            { value: "keys", label: "points", hint: "A point for each key" },
          ]}
          onChoose={(looks) =>
            set(
              looks === "keys"
                ? { looks, keys: rig.keys.map((key) => ({ ...key, look: key.look ?? [0, 0, 0] })) }
                : { looks },
              "what the camera looks at",
            )
          }
        />
      </Row>
      <Row name="Speed" hint={rig.pace === "keys" ? "Each key has its phase, 0 to 1." : undefined}>
        <Choice
          label="Speed along the path"
          value={rig.pace}
          options={[
            { value: "even", label: "constant" },
            { value: "keys", label: "by its keys" },
          ]}
          onChoose={(pace) =>
            set(
              pace === "keys" ? { pace, keys: rig.keys.map(timed(rig)) } : { pace },
              "the speed along the path",
            )
          }
        />
      </Row>
    </>
  );
}

/** The keys of a path. */
export function PathKeys({ rig, edit }: { rig: PathRig; edit: Edit }) {
  const keys = (next: Key[]) => edit({ camera: { rig: { keys: next } } }, "the keys of the path");
  const change = (n: number, values: Partial<Key>) =>
    keys(rig.keys.map((old, k) => (k === n ? { ...old, ...values } : old)));
  return (
    <>
      <h3 className="mb-1.5 mt-4 text-small font-semibold">Keys, in the source's units</h3>
      <ol>
        {rig.keys.map((key, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a key that moves keeps its row
          <li key={n} className="mb-2 border-b rule pb-1.5">
            <div className="flex items-center gap-1">
              <span className="figures w-5 text-note">{n + 1}</span>
              <PointEntry
                label={`Key ${n + 1}`}
                values={key.position}
                onChange={(position) => change(n, { position })}
              />
              <button
                type="button"
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`A key after key ${n + 1}`}
                title="Insert a key after it"
                onClick={() => keys(inserted(rig, n))}
              >
                <Plus size={14} aria-hidden />
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`Remove key ${n + 1}`}
                disabled={rig.keys.length === 2}
                onClick={() => keys(rig.keys.filter((_, k) => k !== n))}
              >
                <X size={14} aria-hidden />
              </button>
            </div>
            {rig.looks === "keys" && (
              <div className="mt-1 flex items-center gap-1">
                <span className="quiet w-5 text-note">at</span>
                <PointEntry
                  label={`Look of key ${n + 1}`}
                  values={key.look ?? [0, 0, 0]}
                  onChange={(look) => change(n, { look })}
                />
              </div>
            )}
            {rig.pace === "keys" && (
              <div className="mt-1 flex items-center gap-1 pl-6 text-small">
                <span className="quiet">phase</span>
                <NumberEntry
                  label={`Phase of key ${n + 1}`}
                  value={key.at ?? 0}
                  min={0}
                  max={1}
                  step={0.05}
                  width="4rem"
                  onCommit={(at) => change(n, { at })}
                />
              </div>
            )}
          </li>
        ))}
      </ol>
    </>
  );
}

/** The keys with one more, half way to the next. */
function inserted(rig: PathRig, n: number): Key[] {
  const key = rig.keys[n];
  const next = rig.keys[n + 1] ?? (rig.closed ? rig.keys[0] : null);
  const position = key.position.map((value, k) =>
    Number(short(next ? (value + next.position[k]) / 2 : value + 0.1 * Math.max(Math.abs(value), 1), 5)),
  );
  const at = key.at == null || next?.at == null ? null : (key.at + next.at) / 2;
  return [...rig.keys.slice(0, n + 1), { ...key, position, at }, ...rig.keys.slice(n + 1)];
}

/** Keys with phases, equally far apart where they have none. */
const timed = (rig: PathRig) => (key: Key, n: number) => ({
  ...key,
  at: key.at ?? n / (rig.keys.length - (rig.closed ? 0 : 1)),
});
