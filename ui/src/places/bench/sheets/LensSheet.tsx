import { Presets } from "../../../parts/Presets";
import { TextEntry } from "../../../parts/TextEntry";
import { short } from "../../../parts/words";
import { cameraEdit } from "../camera/cameraEdit";
import { useBench } from "../context";
import { cameraOf } from "../rigs";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { OpeningRows } from "./OpeningRows";
import { Pair } from "./Pair";
import { PanoramaRows } from "./PanoramaRows";
import { Row } from "./Row";

const FOCALS = [24, 35, 50, 85, 135];

export function LensSheet() {
  const { shot, edit: save, camera } = useBench();
  const lens = cameraOf(shot.document, camera)?.lens;
  const edit = cameraEdit(shot, camera, save);
  const set = (values: object, what: string) => edit({ camera: { lens: values } }, what);
  const { wide_deg, high_deg, diagonal_deg, hyperfocal, near, far, sensors } = shot.lens;
  const flat = lens?.projection !== "perspective";
  const all = lens?.projection === "panorama";
  const shift = lens?.shift_mm ?? [0, 0];
  return (
    <>
      {!all && (
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
            className="mb-3 pl-label"
            onChoose={(focal_mm) => set({ focal_mm }, "the focal length")}
          />
          <Row name="Sensor" unit="mm" hint="width x height; frames of another shape are cropped from it">
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
            className="mb-3 pl-label"
            onChoose={(sensor) => set({ sensor }, "the sensor")}
          />
        </>
      )}
      <ChoiceRow
        name="Projection"
        hint={
          all
            ? "Renders a 360° panorama (equirectangular)."
            : flat
              ? "Equal lengths appear equal at any distance (orthographic)."
              : undefined
        }
        label="Projection"
        value={lens?.projection ?? "perspective"}
        options={[
          { value: "perspective", label: "perspective" },
          { value: "parallel", label: "parallel" },
          { value: "panorama", label: "sphere", hint: "360°, equirectangular" },
        ]}
        onChoose={(projection) => set(projected(projection), "the projection")}
      />
      {all && lens && <PanoramaRows lens={lens} edit={edit} />}
      {!all && (
        <Row name="Shift" unit="mm" hint="right and up on the sensor; verticals stay vertical">
          <Pair
            step={1}
            width="4.4rem"
            first={{
              label: "Shift to the right, mm",
              value: shift[0],
              onCommit: (x) => set({ shift_mm: [x, shift[1]] }, "the shift"),
            }}
            word="and"
            second={{
              label: "Shift up, mm",
              value: shift[1],
              onCommit: (y) => set({ shift_mm: [shift[0], y] }, "the shift"),
            }}
          />
        </Row>
      )}
      {!flat && <OpeningRows shot={shot} edit={edit} camera={camera} />}
      {!all && (
        <>
          <h3 className="mb-1 mt-4 text-small font-semibold">Field of view of this frame</h3>
          <dl className="figures grid grid-cols-3 gap-2 text-small">
            <Angle name="horizontal" value={wide_deg} />
            <Angle name="vertical" value={high_deg} />
            <Angle name="diagonal" value={diagonal_deg} />
          </dl>
        </>
      )}
      {hyperfocal != null && (
        <>
          <h3 className="mb-1 mt-3 text-small font-semibold">Depth of field, in source units</h3>
          <p className="figures text-small">
            {near != null && `${short(near)} to ${far == null ? "∞" : short(far)} · `}
            hyperfocal {short(hyperfocal)}
          </p>
        </>
      )}
      {!all && (
        <p className="quiet mt-3 text-note leading-snug">
          The fill stays when the focal length changes: a longer lens moves the camera back and flattens
          perspective.
        </p>
      )}
    </>
  );
}

/** A projection with what it cannot have taken away. */
function projected(projection: string): object {
  if (projection === "perspective") return { projection };
  return { projection, f_stop: null, ...(projection === "panorama" ? { shift_mm: null } : {}) };
}

function Angle({ name, value }: { name: string; value: number }) {
  return (
    <div className="rounded border rule px-2 py-1">
      <dt className="quiet font-sans text-note">{name}</dt>
      <dd>{short(value, 1)}°</dd>
    </div>
  );
}
