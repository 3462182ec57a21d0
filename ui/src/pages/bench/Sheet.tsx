import { useEffect, useRef } from "react";
import { CloseButton } from "../../parts/CloseButton";
import type { Topic } from "./Brief";
import { ClockSheet } from "./sheets/clock/ClockSheet";
import { LensSheet } from "./sheets/LensSheet";
import { LanesSheet } from "./sheets/lanes/LanesSheet";
import { PictureSheet } from "./sheets/picture/PictureSheet";
import { RigSheet } from "./sheets/rig/RigSheet";
import { SourceSheet } from "./sheets/source/SourceSheet";
import { SweepSheet } from "./sheets/sweep/SweepSheet";

const SHEETS: Record<Exclude<Topic, "code">, { title: string; Body: () => React.ReactNode }> = {
  source: { title: "Source", Body: SourceSheet },
  clock: { title: "Clock", Body: ClockSheet },
  camera: { title: "Camera", Body: RigSheet },
  lens: { title: "Lens", Body: LensSheet },
  lanes: { title: "Lanes", Body: LanesSheet },
  picture: { title: "Picture", Body: PictureSheet },
  sweep: { title: "Variants", Body: SweepSheet },
};

/** All that belongs to one value of the brief. */
export function Sheet({ topic, onClose }: { topic: Exclude<Topic, "code">; onClose: () => void }) {
  const { title, Body } = SHEETS[topic];
  const body = useRef<HTMLDivElement>(null);
  // After a word of the brief opened it, the keyboard continues in it.
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
        <Body />
      </div>
    </section>
  );
}
