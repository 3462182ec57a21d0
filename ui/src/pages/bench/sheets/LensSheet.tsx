import { FormRows } from "../../../form/FormRows";
import { short } from "../../../parts/format";
import { cameraEdit } from "../camera/cameraEdit";
import { useBench } from "../context";
import { cameraOf } from "../rigs";

/** How the chosen camera projects, and what follows from that. */
export function LensSheet() {
  const { shot, edit, camera } = useBench();
  const own = cameraOf(shot.document, camera);
  const { wide_deg, high_deg, diagonal_deg, hyperfocal, near, far } = shot.lens;
  const all = own?.lens.projection === "panorama";
  return (
    <>
      <FormRows
        form="lens"
        values={{ ...shot.document, camera: own }}
        onSet={cameraEdit(shot, camera, edit)}
      />
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

function Angle({ name, value }: { name: string; value: number }) {
  return (
    <div className="rounded border rule px-2 py-1">
      <dt className="quiet font-sans text-note">{name}</dt>
      <dd>{short(value, 1)}°</dd>
    </div>
  );
}
