import type { ReactNode } from "react";
import type { Schemas, Shot } from "../../api/client";
import { useLooks } from "./useLooks";

type Part = Schemas["BriefPart"];
export type Topic = Exclude<Part["topic"], ""> | "code";

interface Props {
  shot: Shot;
  topic: Topic | null;
  onTopic: (topic: Topic | null) => void;
}

/** The shot as a sentence; every value in it opens its sheet. */
export function Brief({ shot, topic, onTopic }: Props) {
  const looks = useLooks(shot);
  const parts = shot.brief.filter((part) => part.only === "" || (part.only === "camera") === looks);
  return (
    <p className="mt-1 text-[17px] leading-[1.65]" data-testid="brief">
      {parts.map((part, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the sentence has an order and nothing else
        <Words key={n} part={part} joined={n === 0 || /^[,.]/.test(part.text)}>
          {part.topic && (
            <button
              type="button"
              className="handle"
              aria-expanded={topic === part.topic}
              title={part.name}
              data-topic={part.topic}
              onClick={() => onTopic(topic === part.topic ? null : (part.topic as Topic))}
            >
              <Swatch colours={part.colours} />
              {part.text}
            </button>
          )}
        </Words>
      ))}
      {shot.document.lanes.length === 0 && (
        <button
          type="button"
          className="handle ml-2 text-[14px]"
          aria-expanded={topic === "lanes"}
          title="Lanes drive dials or the camera over the shot"
          data-topic="lanes"
          onClick={() => onTopic(topic === "lanes" ? null : "lanes")}
        >
          + lane
        </button>
      )}
    </p>
  );
}

/** A part, after a space unless it is a mark that follows the word before it at once. */
function Words({ part, joined, children }: { part: Part; joined: boolean; children: ReactNode }) {
  return (
    <>
      {/* No line begins with a comma. */}
      {joined ? <span className="joiner" /> : " "}
      {children || part.text}
    </>
  );
}

function Swatch({ colours }: { colours: string[] }) {
  if (colours.length === 0) return null;
  return (
    <span
      className={`mr-1 inline-block h-3.5 translate-y-[2px] rounded-sm border border-base-content/40 ${
        colours.length > 1 ? "w-9" : "w-3.5"
      }`}
      style={{ background: colours.length > 1 ? `linear-gradient(${colours.join(", ")})` : colours[0] }}
      aria-hidden
    />
  );
}
