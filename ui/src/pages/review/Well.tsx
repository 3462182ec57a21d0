import { type CSSProperties, type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { useDrag } from "../../parts/hooks/useDrag";
import { FrameCanvas } from "./FrameCanvas";
import { MarkLayer } from "./MarkLayer";
import { PixelLine } from "./PixelLine";
import type { Playhead } from "./playhead";
import type { Mark, Note } from "./queries";
import type { Feed } from "./useFeed";
import { type Box, type Look, panned, placed, type Zoom, zoomed } from "./view";

interface Props {
  playhead: Playhead;
  feed: Feed;
  other: Feed | null;
  look: Look;
  onLook: (change: Partial<Look>) => void;
  notes: Note[];
  /** The shape that a press draws; null to move the picture. */
  drawing: Mark["shape"] | null;
  onDrawn: (mark: Mark) => void;
}

/** One picture, or two, in a well of mid grey; all of them are moved and zoomed together. */
export function Well(props: Props) {
  const { other, look } = props;
  const both = other && look.mode === "beside";
  return (
    <div className="flex min-h-0 min-w-0 flex-1 gap-1 max-lg:h-[60vh] max-lg:flex-none">
      <Pane {...props} />
      {both && <Pane {...props} feed={other} other={null} second />}
    </div>
  );
}

function Pane({ second, ...props }: Props & { second?: boolean }) {
  const { playhead, feed, look, onLook, notes, drawing, onDrawn } = props;
  const other = look.mode === "beside" ? null : props.other;
  const [well, box] = useSize();
  const [trouble, setTrouble] = useState("");
  const [otherTrouble, setOtherTrouble] = useState("");
  const [point, setPoint] = useState<{ x: number; y: number } | null>(null);
  const [drawn, setDrawn] = useState<Mark | null>(null);
  const { subject } = feed;
  const picture = { width: subject.width, height: subject.height };
  const at = placed(look.zoom, picture, box);
  const onZoom = (zoom: Zoom) => onLook({ zoom });
  const inWell = (event: { clientX: number; clientY: number }) => {
    const bounds = well.current?.getBoundingClientRect();
    return { x: event.clientX - (bounds?.left ?? 0), y: event.clientY - (bounds?.top ?? 0) };
  };
  const shareAt = (event: { clientX: number; clientY: number }) => {
    const { x, y } = inWell(event);
    return { x: clamp((x - at.left) / at.width), y: clamp((y - at.top) / at.height) };
  };
  const drag = useDrag<{ zoom: Zoom; begin: { x: number; y: number } }>({
    start: (event) => {
      const target = event.target as HTMLElement;
      if (event.button > 1 || target.closest("button, [data-own-drag]")) return null;
      return { zoom: look.zoom, begin: shareAt(event) };
    },
    move: (from, { dx, dy, event, moved }) => {
      if (drawing) {
        const to = shareAt(event);
        setDrawn({ shape: drawing, ...from.begin, to_x: to.x, to_y: to.y });
      } else if (moved) onZoom(panned(from.zoom, dx, dy, picture, box));
    },
    end: (from, { event }) => {
      if (!drawing) return;
      const to = shareAt(event);
      setDrawn(null);
      onDrawn({ shape: drawing, ...from.begin, to_x: to.x, to_y: to.y });
    },
  });
  useEffect(() => {
    const element = well.current;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const bounds = element?.getBoundingClientRect();
      const here = { x: event.clientX - (bounds?.left ?? 0), y: event.clientY - (bounds?.top ?? 0) };
      onLook({ zoom: zoomed(look.zoom, Math.exp(-event.deltaY / 400), here, picture, box) });
    };
    element?.addEventListener("wheel", onWheel, { passive: false });
    return () => element?.removeEventListener("wheel", onWheel);
  });
  const onMove = (event: PointerEvent) => {
    const { x, y } = inWell(event);
    const [px, py] = [Math.floor((x - at.left) / at.scale), Math.floor((y - at.top) / at.scale)];
    const inside = px >= 0 && py >= 0 && px < picture.width && py < picture.height;
    setPoint(inside ? { x: px, y: py } : null);
  };
  const place: CSSProperties = {
    position: "absolute",
    left: at.left,
    top: at.top,
    width: at.width,
    height: at.height,
    maxWidth: "none",
    background: BEHIND[look.behind],
    imageRendering: at.scale >= 2 ? "pixelated" : "auto",
    filter: look.channel === "all" ? undefined : `url(#review-${look.channel})`,
  };
  const covered = other && !second ? look.mode : null;
  const beside = second || (props.other !== null && look.mode !== "difference");
  const line = look.line * box.width;
  const backing = look.behind === "checks" ? "well-checks" : undefined;
  const shared = { playhead, style: place };
  return (
    <div
      ref={well}
      className={`well relative min-h-0 min-w-0 flex-1 touch-none overflow-hidden ${drawing ? "cursor-crosshair" : "cursor-grab active:cursor-grabbing"}`}
      {...drag.handlers}
      onPointerMove={(event) => {
        drag.handlers.onPointerMove(event);
        onMove(event);
      }}
      onPointerLeave={() => setPoint(null)}
      data-testid={second ? "second-well" : "well"}
    >
      {covered !== "difference" && !(covered === "flip" && look.flipped) && (
        <FrameCanvas
          {...shared}
          feed={feed}
          label={`${subject.title}, the frame at the playhead`}
          testId={second ? "second-picture" : "picture"}
          className={backing}
          onTrouble={setTrouble}
        />
      )}
      {other && covered === "flip" && look.flipped && (
        <FrameCanvas
          {...shared}
          feed={other}
          label={`${other.subject.title}, the frame at the playhead`}
          testId="second-picture"
          className={backing}
          onTrouble={setOtherTrouble}
        />
      )}
      {other && covered === "split" && (
        <div className="absolute inset-0" style={{ clipPath: `inset(0 0 0 ${line}px)` }}>
          <FrameCanvas
            {...shared}
            feed={other}
            label={`${other.subject.title}, the frame at the playhead`}
            testId="second-picture"
            className={backing}
            onTrouble={setOtherTrouble}
          />
        </div>
      )}
      {other && covered === "difference" && (
        <FrameCanvas
          {...shared}
          feed={feed}
          against={other}
          label="Difference of both pictures"
          testId="difference"
          className="bg-black"
          style={{ ...place, filter: `brightness(${look.gain})` }}
          onTrouble={setTrouble}
        />
      )}
      {beside && <Name>{nameOf(covered === "flip" && look.flipped && other ? other : feed)}</Name>}
      {other && covered === "split" && <Name right>{nameOf(other)}</Name>}
      {covered === "split" && (
        <DividingLine at={look.line} width={box.width} onMove={(to) => onLook({ line: to })} />
      )}
      <MarkLayer playhead={playhead} notes={second ? [] : notes} drawn={drawn} at={at} />
      <PixelLine
        playhead={playhead}
        feed={look.flipped && other ? other : feed}
        point={point}
        scale={at.scale}
      />
      {(trouble || (covered && otherTrouble)) && (
        <Said>{trouble || `${other?.subject.title}: ${otherTrouble}`}</Said>
      )}
    </div>
  );
}

/** Flat colours behind transparent pixels. */
const BEHIND = { checks: undefined, black: "#000", grey: "#777", white: "#fff" };

const nameOf = ({ subject, of }: Feed) =>
  [
    subject.kind === "take" ? `take ${subject.name}` : subject.title,
    subject.camera_passes.length > 1 ? subject.camera_passes[of.pass] : "",
  ]
    .filter(Boolean)
    .join(", ");

/** Which of two pictures this is. */
function Name({ right, children }: { right?: boolean; children: ReactNode }) {
  return (
    <span
      className={`pointer-events-none absolute top-1.5 truncate rounded bg-neutral px-1.5 py-0.5 text-neutral-content text-note ${right ? "right-1.5" : "left-1.5"}`}
    >
      {children}
    </span>
  );
}

const clamp = (share: number) => Math.min(Math.max(share, 0), 1);

function Said({ children }: { children: ReactNode }) {
  return (
    <p role="alert" className="absolute inset-x-4 top-4 rounded-box bg-base-100 p-3 text-small shadow">
      {children}
    </p>
  );
}

/** The line that divides two pictures; arrow keys move it too. */
function DividingLine({ at, width, onMove }: { at: number; width: number; onMove: (to: number) => void }) {
  const drag = useDrag<number>({
    start: () => at,
    move: (from, { dx }) => onMove(Math.min(Math.max(from + dx / Math.max(width, 1), 0), 1)),
  });
  return (
    <div
      role="slider"
      aria-label="Dividing line"
      aria-orientation="horizontal"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(at * 100)}
      tabIndex={0}
      data-own-drag
      data-own-keys
      className="absolute inset-y-0 flex w-5 -translate-x-1/2 cursor-ew-resize touch-none items-center justify-center"
      style={{ left: at * width }}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        onMove(Math.min(Math.max(at + by, 0), 1));
      }}
      {...drag.handlers}
    >
      <span className="absolute inset-y-0 w-0.5 bg-white" style={{ boxShadow: "0 0 2px #000" }} />
      <span className="relative h-10 w-2 rounded-full border border-black/50 bg-white" />
    </div>
  );
}

/** An element, and its size while it is shown. */
function useSize() {
  const element = useRef<HTMLDivElement>(null);
  const [box, setBox] = useState<Box>({ width: 800, height: 450 });
  useEffect(() => {
    const watched = element.current;
    if (!watched) return;
    const look = new ResizeObserver(() => {
      setBox({ width: watched.clientWidth, height: watched.clientHeight });
    });
    look.observe(watched);
    return () => look.disconnect();
  }, []);
  return [element, box] as const;
}
