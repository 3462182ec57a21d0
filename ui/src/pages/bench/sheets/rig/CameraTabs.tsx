import { Plus } from "lucide-react";
import { Row } from "../../../../form/Row";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { RemoveButton } from "../../../../parts/RemoveButton";
import { TabList } from "../../../../parts/TabList";
import { cameraEdit } from "../../camera/cameraEdit";
import type { BenchValue } from "../../context";
import { cameraOf } from "../../rigs";

type Props = Pick<BenchValue, "shot" | "edit" | "camera" | "onCamera" | "onAddCamera">;

/** The element that shows the camera of the chosen tab. */
export const CAMERA_PANEL = "camera-panel";

/** The shot's cameras, which all capture at the same instants. */
export function CameraTabs({ shot, edit, camera, onCamera, onAddCamera }: Props) {
  const further = shot.document.cameras;
  const names = [shot.document.camera.name, ...further.map((other) => other.name)];
  if (further.length === 0) {
    return (
      <button type="button" className="btn btn-xs mb-2 font-normal" onClick={onAddCamera}>
        <Plus size={13} aria-hidden /> Add a camera
      </button>
    );
  }
  const name = names[camera] ?? names[0];
  return (
    <>
      <div className="mb-2 flex flex-wrap gap-1">
        <TabList label="Cameras" tabs={names} chosen={camera} panel={CAMERA_PANEL} onChoose={onCamera} />
        <button
          type="button"
          className="btn btn-xs btn-square"
          aria-label="Add a camera"
          title="Add a camera that captures the same instants"
          onClick={onAddCamera}
        >
          <Plus size={13} aria-hidden />
        </button>
      </div>
      <Row name="Name" hint={camera > 0 ? undefined : "used in file names"}>
        <TextEntry
          label="Name of the camera"
          width="9rem"
          value={cameraOf(shot.document, camera)?.name ?? name}
          className="entry font-sans"
          onCommit={(to) => cameraEdit(shot, camera, edit)({ camera: { name: to } }, "the name of a camera")}
        />
        {camera > 0 && (
          <RemoveButton
            label={`Remove camera ${name}`}
            onClick={() => {
              onCamera(0);
              edit({ cameras: further.filter((_, n) => n !== camera - 1) }, `removing ${name}`);
            }}
          />
        )}
      </Row>
    </>
  );
}
