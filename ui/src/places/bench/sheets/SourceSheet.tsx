import { useQuery } from "@tanstack/react-query";
import { SquarePen } from "lucide-react";
import { sourceQuery } from "../../../api/queries";
import { sourceKind } from "../../../api/vocabulary";
import { Complaint } from "../../../parts/Complaint";
import { Facts } from "../../../parts/Facts";
import { KindIcon } from "../../../parts/kinds";
import { TextEntry } from "../../../parts/TextEntry";
import { useBench } from "../context";
import { FindingCard } from "../Ready";
import { Dials } from "./Dials";
import { OptionRows } from "./OptionRows";
import { Row } from "./Row";

/** What is filmed: its file, what it is, what is odd about it, and what can be set. */
export function SourceSheet() {
  const { shot, edit, onTopic } = useBench();
  const { source } = shot.document;
  const { data, error } = useQuery(sourceQuery(shot));
  const kind = sourceKind(source.kind);
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
      <OptionRows
        source={source}
        animations={named("animation", data?.about ?? [])}
        layers={named("layer", data?.about ?? [])}
        edit={edit}
      />
      <Complaint error={error} />
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
