import { Presets } from "../../../parts/Presets";
import { TextEntry } from "../../../parts/TextEntry";
import { short } from "../../../parts/words";
import type { SheetProps } from "../Sheet";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { OpeningRows } from "./OpeningRows";
import { Row } from "./Row";

const FOCALS = [24, 35, 50, 85, 135];

export function LensSheet({ shot, edit }: SheetProps) {
  const lens = shot.document.camera?.lens;
  const set = (values: object, what: string) => edit({ camera: { lens: values } }, what);
  const { wide_deg, high_deg, diagonal_deg, hyperfocal, near, far, sensors } = shot.lens;
  const parallel = lens?.projection === "parallel";
  return (
    <>
      <NumberRow
        name="Focal length"
        unit="mm"
        label="Focal length"
        value={lens?.focal_mm ?? 50}
        min={4}
        max={2000}
        onCommit={(focal_mm) => set({ focal_mm }, "the focal length")}
      />
      <Presets
        values={FOCALS}
        current={lens?.focal_mm}
        className="mb-3 pl-[84px]"
        onChoose={(focal_mm) => set({ focal_mm }, "the focal length")}
      />
      <Row name="Sensor" unit="mm" hint="width x height; a frame of another shape is cut from it">
        <TextEntry
          label="Sensor"
          width="7rem"
          value={lens?.sensor ?? "36x24"}
          className="entry"
          onCommit={(sensor) => set({ sensor }, "the sensor")}
        />
      </Row>
      <Presets
        values={Object.keys(sensors)}
        current={lens?.sensor}
        named={(sensor) => sensors[sensor]}
        className="mb-3 pl-[84px]"
        onChoose={(sensor) => set({ sensor }, "the sensor")}
      />
      <ChoiceRow
        name="Projection"
        hint={parallel ? "Equal lengths are equally long, however far away they are." : undefined}
        label="Projection"
        value={lens?.projection ?? "perspective"}
        options={[
          { value: "perspective", label: "perspective" },
          { value: "parallel", label: "parallel" },
        ]}
        onChoose={(projection) =>
          set(projection === "parallel" ? { projection, f_stop: null } : { projection }, "the projection")
        }
      />
      {!parallel && <OpeningRows shot={shot} edit={edit} />}
      <h3 className="mb-1 mt-4 text-[13px] font-semibold">Field of view of this frame</h3>
      <dl className="figures grid grid-cols-3 gap-2 text-[13px]">
        <Angle name="wide" value={wide_deg} />
        <Angle name="high" value={high_deg} />
        <Angle name="diagonal" value={diagonal_deg} />
      </dl>
      {hyperfocal != null && (
        <>
          <h3 className="mb-1 mt-3 text-[13px] font-semibold">Sharp, in the source's units</h3>
          <p className="figures text-[13px]">
            {near != null && `${short(near)} to ${far == null ? "without end" : short(far)} · `}
            hyperfocal {short(hyperfocal)}
          </p>
        </>
      )}
      <p className="quiet mt-3 text-[12px] leading-snug">
        The camera keeps the subject's fill when the focal length changes: a longer lens stands farther away
        and flattens.
      </p>
    </>
  );
}

function Angle({ name, value }: { name: string; value: number }) {
  return (
    <div className="rounded border rule px-2 py-1">
      <dt className="quiet font-sans text-[12px]">{name}</dt>
      <dd>{short(value, 1)}°</dd>
    </div>
  );
}
