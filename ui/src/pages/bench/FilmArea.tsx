import { lazy, Suspense } from "react";
import type { Patch, Shot } from "../../api/client";
import type { Aim } from "./camera/aim";
import { FinderBar } from "./camera/FinderBar";
import type { Filming } from "./camera/useFilming";
import type { Edit } from "./edit";
import type { Stretch } from "./play/usePlay";
import { cameraOf } from "./rigs";
import { Viewfinder } from "./Viewfinder";

// Plan and elevation come when they are first opened.
const Drawing = lazy(async () => ({ default: (await import("./camera/Drawing")).Drawing }));

interface Props {
  shot: Shot;
  frame: number;
  edit: Edit;
  filming: Filming;
  onFrame: (frame: number) => void;
  /** Gets why there is no picture, or null. */
  onTrouble: (error: Error | null) => void;
  /** Makes the frame at full size and quality, and saves it. */
  onSaveFrame: () => void;
  preview?: Patch;
  film: Stretch | null;
  /** Whether errors of the source are shown at its code. */
  inCode: boolean;
  onAim?: (aim: Aim) => void;
}

/** The picture, the drawing of the cameras beside it, and the overlays. */
export function FilmArea({
  shot,
  frame,
  edit,
  filming,
  onFrame,
  onTrouble,
  onSaveFrame,
  preview,
  film,
  inCode,
  onAim,
}: Props) {
  const lens = cameraOf(shot.document, filming.camera)?.lens;
  const { cameraPass, camera, overlays, actual, around, taking, pathFigures, free } = filming;
  return (
    <div className="well flex min-w-0 flex-1 flex-col max-lg:h-[75vh] max-lg:min-h-[300px] max-sm:h-[60vh] max-lg:flex-none">
      <div className="flex min-h-0 flex-1 max-lg:flex-col">
        <Viewfinder
          {...{ shot, frame, edit, pathFigures, free, film, inCode, onAim, onTrouble, onSaveFrame }}
          finder={{ cameraPass, camera, overlays, actual, around, taking }}
          preview={preview ?? filming.patch}
          onTaken={() => filming.setTaking(null)}
        />
        {filming.drawing && pathFigures && (
          <div className="flex min-w-0 flex-1 max-lg:min-h-64">
            <Suspense fallback={<div className="min-w-0 flex-1 border-l rule bg-base-100" />}>
              <Drawing {...{ shot, pathFigures, camera, frame, onFrame }} onPlace={filming.place} />
            </Suspense>
          </div>
        )}
      </div>
      {filming.looks && (
        <FinderBar
          cameraPasses={filming.cameraPasses}
          cameraPass={cameraPass}
          onCameraPass={filming.setCameraPass}
          overlays={overlays}
          onOverlays={filming.setOverlays}
          actual={actual}
          onActual={filming.setActual}
          drawing={filming.drawing}
          onDrawing={filming.setDrawing}
          around={lens?.projection === "panorama" ? around : undefined}
          onAround={filming.setAround}
          focusing={lens?.f_stop != null ? taking === "focus" : null}
          onFocusing={(on) => filming.setTaking(on ? "focus" : null)}
          compare={filming.compare}
          onTake={filming.take}
          hint={hintOf(filming, onAim !== undefined)}
          onSave={camera === 0 ? filming.saveView : undefined}
        />
      )}
    </div>
  );
}

/** What a hand may do in the picture now. */
function hintOf({ taking, free, led }: Filming, playing: boolean): string {
  if (taking === "focus") return "click what should be sharp, or use the arrow keys and Enter";
  if (taking === "centre") return "click the point to centre on, or use the arrow keys and Enter";
  if (free.aim) return "free look: save this view, or press Escape to go back";
  if (playing) return "drag to orbit · wheel for distance";
  return led ? "drag to look around freely" : "drag to orbit · wheel for distance · Shift to pan";
}
