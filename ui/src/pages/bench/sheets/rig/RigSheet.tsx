import { BookmarkPlus, Crosshair, Download, Upload } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { vocabulary } from "../../../../api/vocabulary";
import { FormRows } from "../../../../form/FormRows";
import { Choice } from "../../../../parts/entries/Choice";
import { Fold } from "../../../../parts/Fold";
import { short } from "../../../../parts/format";
import { useDetails } from "../../../../parts/hooks/useDetails";
import { cameraEdit } from "../../camera/cameraEdit";
import { type BenchValue, useBench } from "../../context";
import { cameraOf } from "../../rigs";
import { CAMERA_PANEL, CameraTabs } from "./CameraTabs";
import { PathKeys, PathLooks } from "./PathRows";
import { TurnRows } from "./TurnRows";

const FILES = [".gltf", ".csv", ".json"];

// Dragging cards needs an additional library.
const ViewCards = lazy(async () => ({ default: (await import("./ViewCards")).ViewCards }));

/** How the camera moves. */
export function RigSheet() {
  const props = useBench();
  const { shot, camera, onRig, pathFigures, onFrame, onSaveView } = props;
  const own = cameraOf(shot.document, camera);
  const details = useDetails();
  if (!own) return null;
  const edit = cameraEdit(shot, camera, props.edit);
  const { rig, views } = own;
  const walks = rig.kind === "stops";
  const degrees = `${short(shot.timing.degrees_a_frame ?? 0, 4)}° per frame`;
  return (
    <>
      <CameraTabs {...props} />
      <div
        {...(shot.document.cameras.length > 0 && {
          id: CAMERA_PANEL,
          role: "tabpanel",
          "aria-labelledby": `${CAMERA_PANEL}-${camera}`,
        })}
      >
        <div className="mb-2.5">
          <Choice
            label="How the camera moves"
            value={rig.kind}
            options={vocabulary().rigs.map((kind) => ({ value: kind.kind, label: kind.label }))}
            onChoose={onRig}
          />
          <p className="quiet mt-0.5 text-note">A new kind starts from the current motion.</p>
        </div>
        <FormRows
          form={`rig.${rig.kind}`}
          values={{ ...shot.document, camera: own }}
          known={{ reason: camera === 0 ? (shot.timing.reasons[0] ?? "") : "" }}
          special={{
            turns: () => rig.kind === "orbit" && <TurnRows rig={rig} edit={edit} degrees={degrees} />,
            pick: () => <PickButton onPick={props.onPick} />,
            "path-looks": () => rig.kind === "path" && <PathLooks rig={rig} edit={edit} />,
            "path-keys": () => rig.kind === "path" && <PathKeys rig={rig} edit={edit} />,
          }}
          onSet={edit}
        />
        {(walks || views.length > 0 || camera === 0) && (
          <div className="mb-1.5 mt-4 flex items-center">
            <h3 className="flex-1 text-small font-semibold">Saved views</h3>
            {camera === 0 && (details || views.length === 0) && (
              <button type="button" className="btn btn-xs font-normal" title="v" onClick={onSaveView}>
                <BookmarkPlus size={14} aria-hidden /> Save this view
              </button>
            )}
          </div>
        )}
        {views.length > 0 && (
          <Suspense>
            <ViewCards
              views={views}
              rig={walks ? rig : null}
              edit={edit}
              stops={walks && pathFigures ? pathFigures.stops : []}
              onFrame={onFrame}
            />
          </Suspense>
        )}
        {!walks && views.length > 0 && (
          <p className="quiet mt-1 text-note leading-snug">Choose “saved views” to move between them.</p>
        )}
        {camera === 0 && (
          <Fold heading="Camera path files">
            <ImportPath onPath={props.onPath} />
            <p className="mt-2 flex flex-wrap items-center gap-1 text-note">
              <span className="quiet w-full">Export camera path</span>
              {FILES.map((suffix) => (
                <a
                  key={suffix}
                  className="btn btn-xs font-normal"
                  href={`/api/shots/${shot.id}/camera-path${suffix}`}
                  download
                >
                  <Download size={13} aria-hidden /> {suffix.slice(1)}
                </a>
              ))}
            </p>
          </Fold>
        )}
      </div>
    </>
  );
}

/** Sets the centre by a click in the picture. */
function PickButton({ onPick }: Pick<BenchValue, "onPick">) {
  return (
    <button
      type="button"
      className="btn btn-xs mb-2.5 ml-[84px] font-normal"
      title="Click in the picture to set the centre"
      onClick={onPick}
    >
      <Crosshair size={13} aria-hidden /> Pick it in the picture
    </button>
  );
}

/** A file with a camera path; of several cameras in it, the one that is named. */
function ImportPath({ onPath }: Pick<BenchValue, "onPath">) {
  const [named, setNamed] = useState("");
  return (
    <div className="flex flex-wrap items-center gap-2">
      <label className="btn btn-xs font-normal">
        <Upload size={13} aria-hidden /> Import camera path
        <input
          type="file"
          className="sr-only"
          accept=".csv,.json,.gltf,.glb,.py"
          aria-label="A camera path file: CSV, JSON, glTF or Python"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) onPath({ file, camera: named.trim() });
            event.target.value = "";
          }}
        />
      </label>
      <input
        className="entry min-w-0 flex-1 font-sans text-note"
        aria-label="Name of the camera, where a glTF file holds several"
        placeholder="camera (optional)"
        value={named}
        onChange={(event) => setNamed(event.target.value)}
      />
    </div>
  );
}
