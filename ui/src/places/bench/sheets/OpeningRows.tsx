import { Choice } from "../../../parts/Choice";
import { NumberEntry } from "../../../parts/NumberEntry";
import type { BenchValue } from "../context";
import { cameraOf } from "../rigs";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { Row } from "./Row";

/** How much of the depth is sharp. */
export function OpeningRows({ shot, edit, camera }: Pick<BenchValue, "shot" | "edit" | "camera">) {
  const lens = cameraOf(shot.document, camera)?.lens;
  const set = (values: object, what: string) => edit({ camera: { lens: values } }, what);
  const open = lens?.f_stop != null;
  return (
    <>
      <ChoiceRow
        name="Depth of field"
        hint={open ? "Blur is made of samples: use 32 or more." : undefined}
        label="What is sharp"
        value={open ? "some" : "all"}
        options={[
          { value: "all", label: "all sharp" },
          { value: "some", label: "blurred" },
        ]}
        onChoose={(to) => set({ f_stop: to === "some" ? 2.8 : null }, "what is sharp")}
      />
      {open && (
        <>
          <NumberRow
            name="Aperture"
            unit="f-number"
            label="Aperture, f-number"
            value={lens.f_stop ?? 2.8}
            min={0.5}
            max={256}
            step={0.1}
            width="4rem"
            onCommit={(f_stop) => set({ f_stop }, "the opening")}
          />
          <Row name="Focus" hint={lens.focus == null ? "on the point that the camera looks at" : undefined}>
            <Choice
              label="Focus"
              value={lens.focus == null ? "middle" : "distance"}
              options={[
                { value: "middle", label: "look-at point" },
                { value: "distance", label: "a distance" },
              ]}
              onChoose={(to) => set({ focus: to === "distance" ? 10 : null }, "the focus")}
            />
            {lens.focus != null && (
              <NumberEntry
                label="Focus distance"
                value={lens.focus}
                min={1e-6}
                step={0.1}
                width="4rem"
                onCommit={(focus) => set({ focus }, "the focus")}
              />
            )}
          </Row>
          <NumberRow
            name="Source unit"
            unit="mm"
            hint="size of one source unit; sets the scale of the blur"
            label="Millimetres in one unit of the source"
            value={lens.unit_mm}
            min={1e-6}
            width="5rem"
            onCommit={(unit_mm) => set({ unit_mm }, "the size of a unit")}
          />
        </>
      )}
    </>
  );
}
