import { useQuery } from "@tanstack/react-query";
import type { Shot } from "../../../../api/client";
import { sourceQuery } from "../../../../api/queries";
import type { Edit } from "../../edit";
import { DialRow } from "./DialRow";

/** All dials of a source; one that a lane drives shows the lane in place of a field. */
export function Dials({ shot, edit }: { shot: Shot; edit: Edit }) {
  const { source, lanes = [] } = shot.document;
  const { data } = useQuery(sourceQuery(shot));
  const driven = new Set(lanes.map((lane) => lane.drive.replace("dial:", "")));
  if (!data?.dials.length || !("dials" in source)) return null;
  return (
    <>
      <h3 className="mb-2 mt-4 text-small font-semibold">Dials</h3>
      {data.dials.map((dial) => (
        <DialRow
          key={dial.name}
          dial={dial}
          driven={driven.has(dial.name)}
          value={source.dials[dial.name] ?? dial.default}
          onTurn={(value) => edit({ source: { dials: { [dial.name]: value } } }, `the dial ${dial.name}`)}
          onReset={() => edit({ source: { dials: { [dial.name]: null } } }, `the dial ${dial.name}`)}
        />
      ))}
    </>
  );
}
