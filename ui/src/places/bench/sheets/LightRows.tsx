import { ColourEntry } from "../../../parts/ColourEntry";
import type { BenchValue } from "../context";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { Pair } from "./Pair";
import { Row } from "./Row";

/** The key light. */
export function LightRows({ shot, edit }: Pick<BenchValue, "shot" | "edit">) {
  const { light } = shot.document;
  const set = (values: object) => edit({ light: values }, "the light");
  return (
    <>
      <h3 className="mb-1.5 mt-4 text-small font-semibold">Light</h3>
      <ChoiceRow
        name="Attached to"
        label="What the light is attached to"
        value={light.stands}
        options={[
          { value: "camera", label: "camera" },
          { value: "world", label: "world" },
        ]}
        onChoose={(stands) => set({ stands })}
      />
      <Row
        name="Direction"
        hint={
          light.stands === "world"
            ? "Azimuth and elevation, degrees from the front."
            : "Azimuth and elevation, degrees from the camera."
        }
      >
        <Pair
          step={5}
          width="4.4rem"
          first={{
            label: "Light azimuth, degrees",
            value: light.azimuth_deg,
            onCommit: (azimuth_deg) => set({ azimuth_deg }),
          }}
          word="and"
          second={{
            label: "Light elevation, degrees",
            value: light.elevation_deg,
            min: -90,
            max: 90,
            onCommit: (elevation_deg) => set({ elevation_deg }),
          }}
        />
      </Row>
      <NumberRow
        name="Strength"
        unit="× default"
        label="Strength of the light"
        value={light.strength}
        min={0}
        max={10}
        step={0.1}
        width="4.4rem"
        onCommit={(strength) => set({ strength })}
      />
      <NumberRow
        name="Shadow"
        unit="%"
        hint={light.shadow ? undefined : "Shadow strength; 0 turns shadows off."}
        label="Shadow, per cent"
        value={light.shadow * 100}
        min={0}
        max={100}
        step={10}
        width="4.4rem"
        onCommit={(percent) => set({ shadow: percent / 100 })}
      />
      {light.shadow > 0 && (
        <NumberRow
          name="Softness"
          unit="° wide"
          hint="Soft shadows need 16 or more samples."
          label="Softness of the shadow, degrees"
          value={light.soft_deg}
          min={0}
          max={60}
          width="4.4rem"
          onCommit={(soft_deg) => set({ soft_deg })}
        />
      )}
      <NumberRow
        name="Environment light"
        unit="%"
        hint={light.environment ? undefined : "From sky and earth colours; replaces key and fill light."}
        label="Environment light, per cent"
        value={light.environment * 100}
        min={0}
        max={100}
        step={10}
        width="4.4rem"
        onCommit={(percent) => set({ environment: percent / 100 })}
      />
      {light.environment > 0 && (
        <div className="mb-2.5 flex items-center gap-3 pl-label text-small">
          {(["sky", "earth"] as const).map((side) => (
            <span key={side} className="flex items-center gap-1">
              <ColourEntry
                label={`Colour of the ${side}`}
                value={light[side]}
                onCommit={(colour) => set({ [side]: colour })}
              />
              {side}
            </span>
          ))}
        </div>
      )}
      <NumberRow
        name="Ambient occlusion"
        unit="%"
        hint="Darkens corners and crevices; slow."
        label="Ambient occlusion, per cent"
        value={light.surround * 100}
        min={0}
        max={100}
        step={10}
        width="4.4rem"
        onCommit={(percent) => set({ surround: percent / 100 })}
      />
    </>
  );
}
