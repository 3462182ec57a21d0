import { X } from "lucide-react";
import { Dropdown } from "../../parts/Dropdown";
import { NumberEntry } from "../../parts/entries/NumberEntry";
import { when } from "../../parts/format";
import type { Of, Other, Subject } from "./queries";

export type InStep = "frame" | "time";

interface Props {
  subject: Subject;
  second: Of | null;
  secondSubject: Subject | undefined;
  onSecond: (second: Of | null) => void;
  offset: number;
  onOffset: (offset: number) => void;
  inStep: InStep;
  onInStep: (inStep: InStep) => void;
}

/** What is compared with: another take, file, reel, or another camera and pass of this take. */
export function Compare(props: Props) {
  const { subject, second, secondSubject, onSecond, offset, onOffset, inStep, onInStep } = props;
  const passes = subject.camera_passes
    .map((label, pass) => ({ label, pass }))
    .filter(({ pass }) => pass !== subject.camera_pass);
  const chosen = !second ? "Compare with…" : secondSubject ? titleOf(secondSubject) : "Loading…";
  return (
    <div className="flex flex-wrap items-center gap-2 text-small">
      <Dropdown
        label={second ? `Compare with: ${chosen}` : chosen}
        className="btn btn-sm font-normal"
        summary={chosen}
      >
        {(close) => (
          <ul className="dropdown-content menu z-30 mt-1 max-h-96 w-[27rem] max-w-[90vw] flex-nowrap overflow-auto rounded-box border rule bg-base-100 p-1 shadow">
            {passes.map(({ label, pass }) => (
              <li key={pass}>
                <button
                  type="button"
                  onClick={() => {
                    close();
                    onSecond({ kind: subject.kind, name: subject.name, pass });
                  }}
                >
                  This take, {label}
                </button>
              </li>
            ))}
            {subject.others.map((other) => (
              <li key={`${other.kind} ${other.name}`}>
                <button
                  type="button"
                  className="flex-col items-start gap-0"
                  onClick={() => {
                    close();
                    onSecond(ofOther(other));
                  }}
                >
                  <span className="max-w-full truncate">{other.title}</span>
                  <span className="quiet text-note">
                    {[other.about, when(other.created)].filter(Boolean).join(" · ")}
                  </span>
                </button>
              </li>
            ))}
            {passes.length + subject.others.length === 0 && (
              <li className="quiet p-2">
                There is nothing else yet: capture the shot again, or compile a file.
              </li>
            )}
          </ul>
        )}
      </Dropdown>
      {second && secondSubject && (
        <>
          <select
            className="select select-xs w-28"
            aria-label="Match by"
            value={inStep}
            onChange={(event) => onInStep(event.target.value as InStep)}
          >
            <option value="frame">By frame</option>
            <option value="time">By time</option>
          </select>
          <span title="Frames by which the second one is ahead">
            <NumberEntry label="Offset" value={offset} whole width="3.5rem" onCommit={onOffset} />
          </span>
          {secondSubject.fps !== subject.fps && (
            <span className="quiet text-note">
              {subject.rate} against {secondSubject.rate} fps
            </span>
          )}
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label="Compare no more"
            title="Compare no more"
            onClick={() => onSecond(null)}
          >
            <X size={15} aria-hidden />
          </button>
        </>
      )}
    </div>
  );
}

const titleOf = (subject: Subject) =>
  subject.kind === "take" ? `${subject.title}, take ${subject.name}` : subject.title;

const ofOther = (other: Other): Of => ({ kind: other.kind, name: other.name, pass: 0 });
