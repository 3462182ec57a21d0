import type { Edit } from "../edit";
import type { Camera } from "../rigs";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";

/** What a panorama covers, and for how many eyes. */
export function PanoramaRows({ lens, edit }: { lens: Camera["lens"]; edit: Edit }) {
  const set = (values: object, what: string) => edit({ camera: { lens: values } }, what);
  return (
    <>
      <ChoiceRow
        name="Covers"
        label="What the panorama covers"
        value={lens.covers}
        options={[
          { value: "sphere", label: "whole sphere", hint: "360° × 180°" },
          { value: "half", label: "half", hint: "180° × 180°, ahead" },
        ]}
        onChoose={(covers) => set({ covers }, "what the panorama covers")}
      />
      <ChoiceRow
        name="Eyes"
        label="Mono or stereo"
        value={lens.eyes}
        options={[
          { value: "one", label: "one" },
          { value: "top-bottom", label: "stacked", hint: "left eye above, right eye below" },
          { value: "left-right", label: "beside", hint: "left eye on the left" },
        ]}
        onChoose={(eyes) => set({ eyes }, "the eyes")}
      />
      {lens.eyes !== "one" && (
        <NumberRow
          name="Eye separation"
          unit="mm"
          label="Between the eyes, mm"
          hint={`one unit of the source is ${lens.unit_mm} mm`}
          value={lens.eye_mm}
          min={0.1}
          step={1}
          onCommit={(eye_mm) => set({ eye_mm }, "the distance of the eyes")}
        />
      )}
    </>
  );
}
