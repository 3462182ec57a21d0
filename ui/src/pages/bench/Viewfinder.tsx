import { useQuery } from "@tanstack/react-query";
import { ImageDown } from "lucide-react";
import { useEffect, useRef } from "react";
import type { Patch, Shot } from "../../api/client";
import { composed } from "../../api/merge";
import { sourceQuery } from "../../api/queries";
import { useVersion } from "../../api/sourceChanges";
import { LookAround } from "../../parts/around/LookAround";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { short } from "../../parts/format";
import { useDetails } from "../../parts/hooks/useDetails";
import type { Aim } from "./camera/aim";
import { OnItsSide } from "./camera/OnItsSide";
import { Overlays } from "./camera/Overlays";
import type { Overlay } from "./camera/overlays";
import { useAim } from "./camera/useAim";
import type { FreeLook } from "./camera/useFreeLook";
import type { PathFigures } from "./camera/usePathFigures";
import { useRoom } from "./camera/useRoom";
import { type Taking, useTaking } from "./camera/useTaking";
import type { Edit } from "./edit";
import { rateOf } from "./play/rate";
import { useFilm } from "./play/useFilm";
import type { Stretch } from "./play/usePlay";
import { cameraOf } from "./rigs";
import { useLooks } from "./useLooks";
import { usePicture } from "./usePicture";

export interface Finder {
  /** Which camera with which pass is looked through. */
  cameraPass: number;
  camera: number;
  overlays: Overlay[];
  actual: boolean;
  around: boolean;
  taking: Taking | null;
}

interface Props {
  shot: Shot;
  frame: number;
  edit: Edit;
  finder: Finder;
  pathFigures: PathFigures | undefined;
  free: FreeLook;
  /** What is shown without being saved. */
  preview?: Patch;
  /** The stretch that is playing. */
  film: Stretch | null;
  /** Whether errors of the source are shown at its code. */
  inCode: boolean;
  /** Takes what a drag does, in place of saving it. */
  onAim?: (aim: Aim) => void;
  onTaken: () => void;
  /** Gets why there is no picture, or null. */
  onTrouble: (error: Error | null) => void;
  onSaveFrame: () => void;
}

/** The live picture: drag to orbit, shift to pan, wheel for the distance, arrow keys when it has the focus. */
export function Viewfinder(props: Props) {
  const { shot, frame, edit, finder, pathFigures, free, preview, film, onAim } = props;
  const details = useDetails();
  const { error: broken } = useQuery(sourceQuery(shot));
  const well = useRef<HTMLDivElement>(null);
  const picture = useRef<HTMLImageElement>(null);
  const room = useRoom(well);
  const looks = useLooks(shot);
  const version = useVersion(shot.id);
  const high = picture.current?.clientHeight || 400;
  const { camera } = finder;
  const aim = useAim({ well, shot, camera, frame, pathFigures, high, edit, looks, free, onAim });
  const lens = cameraOf(shot.document, camera)?.lens;
  const all = lens?.projection === "panorama";
  const size = shot.document.picture;
  const patch = composed(shot.unsaved, composed(preview, aim.patch));
  const inside = all && finder.around;
  const most = inside ? 2048 : 4096;
  const scale = Math.min(1, most / Math.max(size.width, size.height));
  // Looked at from inside, a sphere is seen by a small part of its pixels.
  const asked =
    finder.actual || inside
      ? { width: Math.round(size.width * scale), height: Math.round(size.height * scale) }
      : room;
  const wanted = asked && {
    shotId: shot.id,
    revision: shot.revision,
    version,
    frame,
    ...asked,
    samples: 1,
    patch,
    cameraPass: finder.cameraPass,
    steady: preview !== undefined || shot.unsaved !== undefined,
    unsaved: shot.unsaved !== undefined,
  };
  const shown = usePicture(film ? null : wanted, Math.min(size.samples, finder.actual ? 16 : 8));
  const rate = rateOf(shot);
  const reel = useFilm(film !== null, wanted, film ?? { from: 0, to: 0 }, rate);
  const address = (film && reel.address) || shown.address;
  const clear = size.background === "transparent";

  const { onTrouble } = props;
  useEffect(() => onTrouble(shown.error), [onTrouble, shown.error]);

  const { cross, ...take } = useTaking({
    well,
    picture,
    shot,
    camera,
    frame,
    patch: aim.patch,
    edit,
    taking: finder.taking,
    onTaken: props.onTaken,
  });

  return (
    <div className="well relative flex min-w-0 flex-1 flex-col lg:min-w-[min(504px,60%)]">
      <div
        ref={well}
        role="application"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it is worked by keys
        tabIndex={0}
        data-testid="viewfinder"
        aria-label={
          looks
            ? "Viewfinder: arrow keys orbit, with Alt they pan, plus and minus change the distance, comma and period roll"
            : "Viewfinder: the picture"
        }
        className={`relative m-3 flex min-h-0 flex-1 touch-none ${finder.actual ? "items-start overflow-auto" : "items-center justify-center"} ${finder.taking ? "cursor-crosshair" : looks ? "cursor-grab active:cursor-grabbing" : ""}`}
        {...(finder.taking ? { onPointerDown: take.onPress } : aim.pointer)}
        onKeyDown={finder.taking ? take.onKeyDown : aim.onKeyDown}
      >
        <OnItsSide shot={shot} edit={edit} />
        {address && inside ? (
          <LookAround picture={address} panorama={{ covers: lens.covers, eyes: lens.eyes }} />
        ) : address ? (
          <span
            className={`relative inline-flex ${finder.actual ? "shrink-0" : "max-h-full max-w-full"}`}
            style={finder.actual ? { width: (wanted?.width ?? 1) / devicePixelRatio } : undefined}
          >
            <img
              ref={picture}
              src={address}
              alt={`Frame ${frame}`}
              draggable={false}
              className={`select-none ${finder.actual ? "w-full" : "max-h-full max-w-full"} ${clear ? "well-checks" : ""} ${shown.error ? "opacity-50" : ""}`}
            />
            {cross && finder.taking && <Cross at={cross} />}
            {looks && finder.overlays.length > 0 && (
              <Overlays {...{ shot, pathFigures, camera, frame }} overlays={finder.overlays} />
            )}
          </span>
        ) : (
          !shown.error && <span className="rounded bg-black/60 px-2 py-1 text-white">Loading preview…</span>
        )}
        {(shown.error || take.error !== null) && (
          <div className="absolute inset-x-4 bottom-4 mx-auto max-w-xl">
            {!(props.inCode && broken && shown.error) && <ErrorAlert error={shown.error ?? take.error} />}
            {address && shown.error && (
              <p className="mt-1 text-center text-note text-white">showing the last good picture</p>
            )}
          </div>
        )}
      </div>
      <div className="figures flex items-center gap-3 bg-black/45 px-3 py-0.5 text-note text-white">
        <span className="flex h-[1lh] min-w-0 flex-1 flex-wrap gap-x-3 overflow-hidden">
          <span data-testid="frame-now" className="whitespace-nowrap">
            frame{" "}
            <b
              className="inline-block text-right"
              style={{ minWidth: `${String(shot.timing.frames).length}ch` }}
            >
              {frame}
            </b>{" "}
            of {shot.timing.frames}
          </span>
          {looks && aim.shown && (aim.round || free.aim) && (
            <>
              <span className="whitespace-nowrap">elevation {short(aim.shown.elevation_deg, 1)}°</span>
              <span className="whitespace-nowrap">start {short(aim.shown.start_deg, 1)}°</span>
              <span className="whitespace-nowrap">
                {aim.shown.distance != null
                  ? `distance ${short(aim.shown.distance, 3)}`
                  : `fill ${Math.round(aim.shown.fill * 100)} %`}
              </span>
            </>
          )}
        </span>
        {!looks && (
          <span className="min-w-0 truncate font-sans opacity-90">the source provides finished pictures</span>
        )}
        <button
          type="button"
          className="finder shrink-0 font-sans"
          title="Save this frame at full size and quality"
          onClick={props.onSaveFrame}
        >
          <ImageDown size={14} aria-hidden /> Save frame
        </button>
        {film ? (
          <span
            data-testid="achieved"
            className="shrink-0 whitespace-nowrap"
            title="Frames displayed in the last second; the motion keeps its rate"
          >
            <b>{reel.achieved}</b> of {short(rate, 2)} fps shown
          </span>
        ) : (
          <span title="From request to display" className="shrink-0 whitespace-nowrap">
            {details && shown.milliseconds ? `${Math.round(shown.milliseconds)} ms` : ""}
          </span>
        )}
      </div>
    </div>
  );
}

/** Marks the point that Enter takes. */
function Cross({ at }: { at: { x: number; y: number } }) {
  return (
    <span
      aria-hidden
      data-testid="cross"
      className="pointer-events-none absolute size-6 -translate-x-1/2 -translate-y-1/2"
      style={{ left: `${at.x * 100}%`, top: `${at.y * 100}%` }}
    >
      <span className="absolute inset-x-0 top-1/2 h-0.5 -translate-y-1/2 bg-white ring-1 ring-black" />
      <span className="absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2 bg-white ring-1 ring-black" />
    </span>
  );
}
