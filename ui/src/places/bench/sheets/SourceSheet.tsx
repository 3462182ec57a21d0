import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../../api/client";
import { sourceQuery } from "../../../api/queries";
import { Choice } from "../../../parts/Choice";
import { Complaint } from "../../../parts/Complaint";
import { NumberEntry } from "../../../parts/NumberEntry";
import { TextEntry } from "../../../parts/TextEntry";
import type { SheetProps } from "../Sheet";
import { Row } from "./Row";

export function SourceSheet({ shot, edit }: SheetProps) {
  const { source, lanes = [] } = shot.document;
  const { data, error } = useQuery(sourceQuery(shot.id, source.file));
  const driven = new Set(lanes.map((lane) => lane.drive.replace("dial:", "")));
  return (
    <>
      <Row name="Kind">
        {source.kind === "model" ? "model: code that builds geometry" : "object: a mesh file"}
      </Row>
      <Row name="File" hint="relative to the shot's document">
        <TextEntry
          label="File"
          value={source.file}
          width="100%"
          className="entry"
          onCommit={(file) => edit({ source: { file } }, "the file")}
        />
      </Row>
      {source.kind === "object" && (
        <Row name="Up" hint="the file's axis that points up; auto is y for glTF, else z">
          <Choice
            label="Up axis"
            value={source.up ?? "auto"}
            options={[
              { value: "auto", label: "auto" },
              { value: "y", label: "y" },
              { value: "z", label: "z" },
            ]}
            onChoose={(up) => edit({ source: { up } }, "the up axis")}
          />
        </Row>
      )}
      <Complaint error={error} />
      {data && data.dials.length > 0 && source.kind === "model" && (
        <>
          <h3 className="mb-2 mt-4 text-[13px] font-semibold">Dials</h3>
          {data.dials.map((dial) => (
            <DialRow
              key={dial.name}
              dial={dial}
              driven={driven.has(dial.name)}
              value={source.dials?.[dial.name] ?? dial.default}
              onTurn={(value) => edit({ source: { dials: { [dial.name]: value } } }, `the dial ${dial.name}`)}
              onReset={() => edit({ source: { dials: { [dial.name]: null } } }, `the dial ${dial.name}`)}
            />
          ))}
        </>
      )}
    </>
  );
}

interface DialProps {
  dial: Schemas["DialBody"];
  driven: boolean;
  value: number;
  onTurn: (value: number) => void;
  onReset: () => void;
}

function DialRow({ dial, driven, value, onTurn, onReset }: DialProps) {
  const step = (dial.high - dial.low) / 200;
  return (
    <div className="mb-2.5">
      <div className="flex items-center gap-2 text-[13px]">
        <span className="min-w-0 flex-1 truncate font-semibold" title={dial.about}>
          {dial.name}
        </span>
        {driven ? (
          <span className="quiet text-[12px]">driven by a lane</span>
        ) : (
          <>
            {value !== dial.default && (
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                title={`Back to ${dial.default}`}
                onClick={onReset}
              >
                reset
              </button>
            )}
            <NumberEntry
              label={dial.name}
              value={value}
              min={dial.low}
              max={dial.high}
              step={step}
              width="4.6rem"
              onCommit={onTurn}
            />
            <span className="quiet w-16 truncate text-[12px]">{dial.unit}</span>
          </>
        )}
      </div>
      {!driven && (
        <input
          key={value}
          type="range"
          className="range range-primary range-xs mt-1 w-full"
          aria-label={`${dial.name}, slider`}
          min={dial.low}
          max={dial.high}
          step={step}
          defaultValue={value}
          onPointerUp={(event) => onTurn(Number(event.currentTarget.value))}
          onKeyUp={(event) => onTurn(Number(event.currentTarget.value))}
        />
      )}
      <p className="quiet text-[12px] leading-snug">{dial.about}</p>
    </div>
  );
}
