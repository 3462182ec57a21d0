import { useQuery } from "@tanstack/react-query";
import { SquarePen } from "lucide-react";
import { sourceQuery } from "../../../../api/queries";
import { sourceKind } from "../../../../api/vocabulary";
import { FormRows } from "../../../../form/FormRows";
import { Row } from "../../../../form/Row";
import { ErrorAlert } from "../../../../parts/ErrorAlert";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { Facts } from "../../../../parts/Facts";
import { KindIcon } from "../../../../parts/kinds";
import { useBench } from "../../context";
import { FindingCard } from "../../FindingCard";
import { Dials } from "./Dials";

/** What is filmed: its file, what it is, what is odd about it, and what can be set. */
export function SourceSheet() {
  const { shot, edit, onTopic } = useBench();
  const { source } = shot.document;
  const { data, error } = useQuery(sourceQuery(shot));
  const kind = sourceKind(source.kind);
  const animations = named("animation", data?.about ?? []);
  const layers = named("layer", data?.about ?? []);
  return (
    <>
      <p className="mb-3 flex items-center gap-2">
        <KindIcon kind={source.kind} />
        <span>
          <b>{source.kind}</b> <span className="quiet">· {kind?.is_a}</span>
        </span>
      </p>
      <Row name="File" hint="relative to the shot's document">
        <TextEntry
          label="File"
          value={source.file}
          width="100%"
          className="entry"
          onCommit={(file) => edit({ source: { file } }, "the file")}
        />
      </Row>
      {kind?.own_text && (
        <button type="button" className="btn btn-sm mb-3 w-full" onClick={() => onTopic("code")}>
          <SquarePen size={15} aria-hidden /> Edit the code
        </button>
      )}
      <FormRows
        form={`source.${source.kind}`}
        values={shot.document}
        known={{
          suffix: source.file.split(".").at(-1)?.toLowerCase(),
          several_animations: animations.length > 1,
          animations: animations.map((name, n) => ({ value: n ? name : "", label: name })),
          several_layers: layers.length > 1,
          layers: [
            ...(layers.includes("") ? [] : [{ value: "", label: `the first: ${layers[0]}` }]),
            ...layers.map((name) => ({ value: name, label: name || "the main one" })),
          ],
        }}
        onSet={edit}
      />
      <ErrorAlert error={error} />
      {data && data.findings.length > 0 && (
        <ul className="my-3 flex flex-col gap-2">
          {data.findings.map((finding) => (
            <FindingCard key={finding.what} finding={finding} edit={edit} />
          ))}
        </ul>
      )}
      {data && data.about.length > 0 && <Facts facts={data.about} className="my-3 border-t rule pt-3" />}
      <Dials shot={shot} edit={edit} />
    </>
  );
}

/** Facts of one name, such as the animations that a mesh file holds, or the layers of images. */
const named = (name: string, about: { name: string; value: string }[]) =>
  about.filter((fact) => fact.name === name).map((fact) => fact.value);
