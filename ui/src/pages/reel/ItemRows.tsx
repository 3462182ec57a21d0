import { useState } from "react";
import { FormRows } from "../../form/FormRows";
import { Row } from "../../form/Row";
import type { Item } from "./reelItems";
import { Choice } from "./sheetParts";

type Values = Record<string, unknown>;
/** Sets values of an item; those that are worked out from what it has are so from what the last edit left. */
export type SetValues = (values: Values | ((item: Item) => Values), what: string) => void;

interface Props {
  item: Item;
  /** Cameras and passes that it could show. */
  passes?: [string, string][];
  set: SetValues;
}

/** What can be set of an item of any kind. */
export function ItemRows({ item, passes = [], set }: Props) {
  return (
    <div>
      <FormRows
        form={`item.${item.kind}`}
        values={item}
        known={{ cells: item.kind === "layout" ? item.cells.length : 0 }}
        special={{
          shows: () => passes.length > 1 && <ShowsRow item={item} passes={passes} set={set} />,
          "title-text": () => item.kind === "title" && <TitleText text={item.text ?? ""} set={set} />,
        }}
        onSet={set}
      />
    </div>
  );
}

/** Which camera and pass of a take is shown. */
function ShowsRow({ item, passes, set }: Required<Props>) {
  const seen = "camera" in item ? passes.findIndex((one) => isShown(item, one)) : -1;
  return (
    <Row name="Shows">
      <Choice
        label="Camera and pass"
        value={String(Math.max(seen, 0))}
        options={Object.fromEntries(passes.map((one, at) => [String(at), one.join(", ")]))}
        onPick={(at) => {
          const [camera, render_pass] = passes[Number(at)] ?? ["", ""];
          set({ camera, render_pass }, "the camera and pass");
        }}
      />
    </Row>
  );
}

/** Whether an item shows a camera and pass; what it does not name is the first there is. */
const isShown = (item: { camera?: string; render_pass?: string }, [camera, pass]: [string, string]) =>
  (!item.camera || item.camera === camera) && (!item.render_pass || item.render_pass === pass);

/** The lines of a title. */
function TitleText({ text, set }: { text: string; set: SetValues }) {
  const [draft, setDraft] = useState<string | null>(null);
  return (
    <textarea
      className="mb-2.5 w-full rounded-box border rule bg-base-100 p-2"
      rows={3}
      aria-label="Text of the title"
      value={draft ?? text}
      onChange={(event) => setDraft(event.target.value)}
      onBlur={() => {
        if (draft !== null && draft !== text) set({ text: draft }, "the title's text");
        setDraft(null);
      }}
    />
  );
}
