import { TriangleAlert } from "lucide-react";
import { Link } from "react-router";
import { count } from "../../parts/format";
import { useGuideLink } from "../../parts/hooks/useGuideLink";
import { FileFacts } from "./FileFacts";
import type { Playhead } from "./playhead";
import type { Figures, Subject } from "./queries";

const SHOWN = 12;

interface Props {
  playhead: Playhead;
  subject: Subject;
  figures: Figures | undefined;
  /** What is found between two that are compared. */
  between: Figures["findings"];
}

/** What was found in the frames, each with a way to them. */
export function FindingsPanel({ playhead, subject, figures, between }: Props) {
  const to = useGuideLink();
  const go = (frame: number) => {
    playhead.pause();
    playhead.set({ frame });
  };
  const found = [...between, ...(figures?.findings ?? [])];
  const missing = subject.missing;
  return (
    <div className="flex flex-col gap-2 text-small" data-testid="findings">
      {missing.length > 0 && (
        <p className="rounded-box border border-warning/70 p-2.5">
          <b>{count(missing.length, "frame is", "frames are")} missing.</b> The frame before is shown in place
          of each: resume the run to make them.
        </p>
      )}
      {figures?.state === "done" && found.length === 0 && (
        <p className="quiet">
          No findings in {count(subject.count, "frame")}: no jump, flicker, freeze, empty frame or clipped
          highlight{subject.closes && "; the seam closes"}.
        </p>
      )}
      {figures && figures.state !== "done" && !subject.is_data && (
        <p className="quiet">Findings come once all frames are measured.</p>
      )}
      <ul className="flex flex-col gap-2">
        {found.map((one) => (
          <li key={one.what} className="rounded-box border border-warning/70 p-2.5">
            <div className="flex gap-2">
              <TriangleAlert size={16} className="mt-0.5 shrink-0 text-warning" aria-hidden />
              <span>
                <b>{one.what}.</b> {one.cost}{" "}
                <Link
                  to={to("findings", one.name)}
                  className="link whitespace-nowrap text-note"
                  aria-label={`More about this finding: ${one.what}`}
                >
                  more
                </Link>
              </span>
            </div>
            <div className="mt-1.5 flex flex-wrap gap-1">
              {one.frames.slice(0, SHOWN).map((frame) => (
                <button
                  key={frame}
                  type="button"
                  className="btn btn-xs figures font-normal"
                  aria-label={`Go to frame ${frame}`}
                  onClick={() => go(frame)}
                >
                  {frame}
                </button>
              ))}
              {one.frames.length > SHOWN && (
                <span className="quiet">and {one.frames.length - SHOWN} more</span>
              )}
            </div>
          </li>
        ))}
      </ul>
      {(subject.kind === "file" || subject.kind === "import") && (
        <FileFacts of={{ kind: subject.kind, name: subject.name, pass: 0 }} />
      )}
      {figures?.state === "done" && (
        <p className="quiet text-note">
          Bands and fringes were looked for in {figures.looked_closer.length === 1 ? "frame" : "frames"}{" "}
          {figures.looked_closer.join(", ")} alone.
        </p>
      )}
    </div>
  );
}
