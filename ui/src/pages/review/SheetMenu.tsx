import { type ReactNode, useState } from "react";
import { Dropdown } from "../../parts/Dropdown";
import { NumberEntry } from "../../parts/entries/NumberEntry";
import { count } from "../../parts/format";
import type { Of, Subject } from "./queries";

const MOST = 200;
const COLUMNS = 5;

interface Props {
  of: Of;
  subject: Subject;
  noted: number;
  found: number;
}

/** A contact sheet of the frames, as a file. */
export function SheetMenu({ of, subject, noted, found }: Props) {
  const [which, setWhich] = useState<"every" | "noted" | "findings">("every");
  const [every, setEvery] = useState(Math.max(Math.ceil(subject.count / 40), 1));
  const pictures = { every: Math.ceil(subject.count / every), noted, findings: found }[which];
  const address = (form: string) =>
    `/api/reviews/${of.kind}/${of.name}/sheet.${form}?camera_pass=${of.pass}&of=${which}&every=${every}&columns=${COLUMNS}`;
  return (
    <Dropdown label="Contact sheet" className="btn btn-sm font-normal" summary="Contact sheet">
      {(close) => (
        <div className="dropdown-content z-30 mt-1 w-80 rounded-box border rule bg-base-100 p-3 text-small shadow">
          <fieldset className="flex flex-col gap-1.5" aria-label="Frames on the sheet">
            <Radio label="Every" chosen={which === "every"} onChoose={() => setWhich("every")}>
              <NumberEntry
                label="Frames apart"
                value={every}
                min={1}
                whole
                width="4rem"
                onCommit={setEvery}
              />{" "}
              frames
            </Radio>
            <Radio
              label={`With notes (${noted})`}
              chosen={which === "noted"}
              onChoose={() => setWhich("noted")}
            />
            <Radio
              label={`With findings (${found})`}
              chosen={which === "findings"}
              onChoose={() => setWhich("findings")}
            />
          </fieldset>
          <p className="quiet my-2">
            {count(pictures, "frame")}, each with number and time.
            {pictures > MOST && ` A sheet holds ${MOST}: choose fewer.`}
          </p>
          <div className="flex gap-2">
            {["png", "pdf", "html"].map((form) => (
              <a
                key={form}
                className={`btn btn-xs ${pictures > 0 && pictures <= MOST ? "" : "btn-disabled"}`}
                href={address(form)}
                download
                onClick={close}
              >
                {form === "html" ? "Page" : form.toUpperCase()}
              </a>
            ))}
          </div>
        </div>
      )}
    </Dropdown>
  );
}

interface RadioProps {
  label: string;
  chosen: boolean;
  onChoose: () => void;
  children?: ReactNode;
}

function Radio({ label, chosen, onChoose, children }: RadioProps) {
  return (
    <span className="flex items-center gap-1.5">
      <label className="flex items-center gap-1.5">
        <input
          type="radio"
          className="radio radio-xs"
          name="sheet-frames"
          checked={chosen}
          onChange={onChoose}
        />
        {label}
      </label>
      {children}
    </span>
  );
}
