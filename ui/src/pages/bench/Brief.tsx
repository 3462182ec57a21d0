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
    <p className="mt-1 text-brief leading-[1.65]" data-testid="brief">
      {parts.map((part, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the sentence has an order and nothing else
        <Words key={n} part={part} first={n === 0} mark={markOf(parts[n + 1])}>
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
          className="handle ml-2 text-body"
          aria-expanded={topic === "lanes"}
          title="Lanes drive dials or the camera over the shot"
          data-topic="lanes"
          onClick={() => onTopic(topic === "lanes" ? null : "lanes")}
        >
          Animate a value
        </button>
      )}
    </p>
  );
}

/** The comma or full stop that a part begins with: it is written with the part before, since no line may begin with it. */
const markOf = (part: Part | undefined) => /^[,.]/.exec(part?.text ?? "")?.[0] ?? "";

interface WordsProps {
  part: Part;
  first: boolean;
  mark: string;
  children: ReactNode;
}

/** A part after a space, with the mark that follows it. */
function Words({ part, first, mark, children }: WordsProps) {
  const text = part.text.slice(markOf(part).length).trimStart();
  if (!children && !text) return null;
  return (
    <>
      {!first && " "}
      {children && mark ? (
        <span className="whitespace-nowrap">
          {children}
          {mark}
        </span>
      ) : (
        children || text + mark
      )}
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
