import { Plus } from "lucide-react";
import { Row } from "../../../../form/Row";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { RemoveButton } from "../../../../parts/RemoveButton";
import type { Edit } from "../../edit";
import type { OrbitRig } from "../../rigs";

type Turn = OrbitRig["followed_by"][number];
const WHATS = ["camera", "subject", "light"] as const;

/** What turns on a turntable, one after another. */
export function TurnRows({ rig, edit, degrees }: { rig: OrbitRig; edit: Edit; degrees: string }) {
  const set = (values: object, what: string) => edit({ camera: { rig: values } }, what);
  const follow = (next: Turn[]) => set({ followed_by: next }, "the turns");
  const change = (n: number, values: Partial<Turn>) =>
    follow(rig.followed_by.map((old, k) => (k === n ? { ...old, ...values } : old)));
  const last = rig.followed_by[rig.followed_by.length - 1] ?? rig;
  const following = last.what === "light" ? "camera" : "light";
  return (
    <>
      <TurnRow name="Turns" turn={rig} onChange={(values) => set(values, "the turns")} />
      {rig.followed_by.map((turn, n) => (
        <TurnRow
          // biome-ignore lint/suspicious/noArrayIndexKey: turns have no names
          key={n}
          name="then"
          turn={turn}
          onChange={(values) => change(n, values)}
          onRemove={() => follow(rig.followed_by.filter((_, k) => k !== n))}
        />
      ))}
      <div className="mb-2.5 flex items-center gap-2 pl-label">
        <button
          type="button"
          className="btn btn-xs font-normal"
          onClick={() =>
            follow([...rig.followed_by, { what: following, turns: rig.turns || 1, direction: rig.direction }])
          }
        >
          <Plus size={13} aria-hidden /> then turn the {following}
        </button>
        <span className="quiet figures text-note">{degrees}</span>
      </div>
    </>
  );
}

interface TurnRowProps {
  name: string;
  turn: Turn;
  onChange: (values: Partial<Turn>) => void;
  onRemove?: () => void;
}

function TurnRow({ name, turn, onChange, onRemove }: TurnRowProps) {
  return (
    <Row name={name}>
      <NumberEntry
        label={name === "Turns" ? "Turns" : "Add turns after these"}
        width="3.6rem"
        min={0}
        max={1000}
        step={0.25}
        value={turn.turns}
        onCommit={(turns) => onChange({ turns })}
      />
      <select
        className="entry w-[5.4rem] text-small"
        aria-label="Rotates"
        value={turn.what}
        onChange={(event) => onChange({ what: event.target.value as Turn["what"] })}
      >
        {WHATS.map((what) => (
          <option key={what}>{what}</option>
        ))}
      </select>
      <button
        type="button"
        className="btn btn-xs btn-square font-normal"
        aria-label={`Direction, seen from above: ${turn.direction === "cw" ? "clockwise" : "counter-clockwise"}`}
        title={turn.direction === "cw" ? "clockwise, seen from above" : "counter-clockwise, seen from above"}
        onClick={() => onChange({ direction: turn.direction === "cw" ? "ccw" : "cw" })}
      >
        {turn.direction === "cw" ? "↻" : "↺"}
      </button>
      {onRemove && <RemoveButton label="Remove these turns" onClick={onRemove} />}
    </Row>
  );
}
