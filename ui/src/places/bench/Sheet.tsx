import { useEffect, useRef } from "react";
import type { Shot } from "../../api/client";
import { CloseButton } from "../../parts/CloseButton";
import type { Topic } from "./Brief";
import type { Flight } from "./camera/useFlight";
import type { Edit } from "./edit";
import type { PlayedThing } from "./play/usePlayIn";
import type { Rig } from "./rigs";
import { ClockSheet } from "./sheets/ClockSheet";
import { LanesSheet } from "./sheets/LanesSheet";
import { LensSheet } from "./sheets/LensSheet";
import { PictureSheet } from "./sheets/PictureSheet";
import { RigSheet } from "./sheets/RigSheet";
import { SourceSheet } from "./sheets/SourceSheet";

export interface SheetProps {
  shot: Shot;
  edit: Edit;
  frame: number;
  onTerm: (order: { term: string; text: string }) => void;
  onRig: (kind: Rig["kind"]) => void;
  onStagger: (overlap: number) => void;
  onPlayIn: (thing: PlayedThing) => void;
  onTopic: (topic: Topic) => void;
  /** Which of the shot's cameras the sheets are about. */
  camera: number;
  onCamera: (camera: number) => void;
  onAddCamera: () => void;
  onSaveView: () => void;
  onWay: (order: { file: File; camera: string }) => void;
  flight: Flight | undefined;
  /** Lets the next press into the picture choose the point that the camera looks at. */
  onPick: () => void;
  onFrame: (frame: number) => void;
}

const SHEETS: Record<
  Exclude<Topic, "code">,
  { title: string; Body: (props: SheetProps) => React.ReactNode }
> = {
  source: { title: "Source", Body: SourceSheet },
  clock: { title: "Clock", Body: ClockSheet },
  orbit: { title: "Camera", Body: RigSheet },
  lens: { title: "Lens", Body: LensSheet },
  lanes: { title: "Lanes", Body: LanesSheet },
  picture: { title: "Picture", Body: PictureSheet },
};

/** All that belongs to one value of the brief. */
export function Sheet({
  topic,
  onClose,
  ...props
}: SheetProps & { topic: Exclude<Topic, "code">; onClose: () => void }) {
  const { title, Body } = SHEETS[topic];
  const body = useRef<HTMLDivElement>(null);
  // Whoever opens it by a word of the brief goes on in it by keyboard.
  useEffect(() => {
    if (topic) body.current?.closest("section")?.focus();
  }, [topic]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) =>
      event.key === "Escape" &&
      !(event.target as HTMLElement).closest("dialog, [data-own-keys]") &&
      onClose();
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [onClose]);
  return (
    <section
      aria-label={title}
      data-testid="sheet"
      tabIndex={-1}
      className="flex min-h-0 flex-1 flex-col outline-none"
    >
      <header className="flex items-center border-b rule px-3 py-1.5">
        <h2 className="flex-1 text-base font-semibold">{title}</h2>
        <CloseButton label={`Close ${title}`} onClick={onClose} />
      </header>
      <div ref={body} className="relative min-h-0 flex-1 overflow-auto p-3">
        <Body {...props} />
      </div>
    </section>
  );
}
