import { ColourEntry } from "../../../parts/ColourEntry";
import type { SheetProps } from "../Sheet";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { Pair } from "./Pair";
import { Row } from "./Row";

/** The key light. */
export function LightRows({ shot, edit }: Pick<SheetProps, "shot" | "edit">) {
  const { light } = shot.document;
  const set = (values: object) => edit({ light: values }, "the light");
  return (
    <>
      <h3 className="mb-1.5 mt-4 text-[13px] font-semibold">Light</h3>
      <ChoiceRow
        name="Stands"
        label="Where the light stands"
        value={light.stands}
        options={[
          { value: "camera", label: "with the camera" },
          { value: "world", label: "in the world" },
        ]}
        onChoose={(stands) => set({ stands })}
      />
      <Row
        name="From"
        hint={
          light.stands === "world"
            ? "Degrees from the front: to the right, and up."
            : "Degrees from the camera: to the right, and up."
        }
      >
        <Pair
          step={5}
          width="4.4rem"
          first={{
            label: "Light, degrees to the right",
            value: light.azimuth_deg,
            onCommit: (azimuth_deg) => set({ azimuth_deg }),
          }}
          word="and"
          second={{
            label: "Light, degrees up",
            value: light.elevation_deg,
            min: -90,
            max: 90,
            onCommit: (elevation_deg) => set({ elevation_deg }),
          }}
        />
      </Row>
      <NumberRow
        name="Strength"
        unit="× as usual"
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
        unit="% of its light"
        hint={light.shadow ? undefined : "kept from what lies behind something; 0 casts none"}
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
          hint="soft with the samples: take 16 or more"
          label="Softness of the shadow, degrees"
          value={light.soft_deg}
          min={0}
          max={60}
          width="4.4rem"
          onCommit={(soft_deg) => set({ soft_deg })}
        />
      )}
      <NumberRow
        name="All round"
        unit="% of the light"
        hint={light.environment ? undefined : "from sky and earth, in place of key and fill"}
        label="Light from all round, per cent"
        value={light.environment * 100}
        min={0}
        max={100}
        step={10}
        width="4.4rem"
        onCommit={(percent) => set({ environment: percent / 100 })}
      />
      {light.environment > 0 && (
        <div className="mb-2.5 flex items-center gap-3 pl-[84px] text-[13px]">
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
        name="Surround"
        unit="%"
        hint="how much hollows darken, as under an open sky; slow"
        label="Surround, per cent"
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
