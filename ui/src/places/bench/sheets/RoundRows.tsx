import { NumberEntry } from "../../../parts/NumberEntry";
import { short } from "../../../parts/words";
import type { RoundRig } from "../rigs";
import type { SheetProps } from "../Sheet";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";

/** A camera that stands before its subject, or goes round it. */
export function RoundRows({ shot, rig, edit }: Pick<SheetProps, "shot" | "edit"> & { rig: RoundRig }) {
  const set = (values: object, what: string) => edit({ camera: { rig: values } }, what);
  const centre = rig.centre ?? null;
  return (
    <>
      {rig.kind === "orbit" && (
        <>
          <NumberRow
            name="Turns"
            hint={`${short(shot.reckoning.degrees_a_frame ?? 0, 4)}° from frame to frame`}
            label="Turns"
            value={rig.turns ?? 1}
            min={0}
            max={1000}
            step={0.25}
            onCommit={(turns) => set({ turns }, "the turns")}
          />
          <ChoiceRow
            name="Direction"
            label="Direction, seen from above"
            value={rig.direction ?? "ccw"}
            options={[
              { value: "ccw", label: "counter-clockwise" },
              { value: "cw", label: "clockwise" },
            ]}
            onChoose={(direction) => set({ direction }, "the direction")}
          />
        </>
      )}
      <NumberRow
        name="Start"
        unit="°"
        hint="0° looks at the front, along +y; 90° from the right"
        label="Start angle"
        value={rig.start_deg ?? 0}
        step={5}
        onCommit={(start_deg) => set({ start_deg }, "the start angle")}
      />
      <NumberRow
        name="Elevation"
        unit="°"
        hint="over the horizon; below 0 from underneath"
        label="Elevation"
        value={rig.elevation_deg ?? 18}
        min={-89}
        max={89}
        step={1}
        onCommit={(elevation_deg) => set({ elevation_deg }, "the elevation")}
      />
      <NumberRow
        name="Fill"
        unit="%"
        hint="how much of the frame's shorter side the subject's sphere takes"
        label="Fill, per cent"
        value={(rig.fill ?? 0.8) * 100}
        min={2}
        max={400}
        step={1}
        onCommit={(percent) => set({ fill: percent / 100 }, "the fill")}
      />
      <ChoiceRow
        name="Round"
        hint={centre ? "x, y, z in the source's units" : "the middle of the subject over the whole shot"}
        label="What the camera goes round"
        value={centre ? "point" : "middle"}
        options={[
          { value: "middle", label: "the middle" },
          { value: "point", label: "a point" },
        ]}
        onChoose={(to) => set({ centre: to === "point" ? [0, 0, 0] : null }, "the centre")}
      />
      {centre && (
        <div className="flex gap-1.5 pl-[84px]">
          {(["x", "y", "z"] as const).map((axis, n) => (
            <NumberEntry
              key={axis}
              label={`Centre ${axis}`}
              width="3.9rem"
              step={0.1}
              value={centre[n] as number}
              onCommit={(value) =>
                set({ centre: centre.map((old, k) => (k === n ? value : old)) }, "the centre")
              }
            />
          ))}
        </div>
      )}
      {rig.kind === "still" && (
        <NumberRow
          name="Roll"
          unit="°"
          hint="clockwise; 0 keeps the horizon level"
          label="Roll"
          value={rig.roll_deg}
          min={-180}
          max={180}
          onCommit={(roll_deg) => set({ roll_deg }, "the roll")}
        />
      )}
    </>
  );
}
