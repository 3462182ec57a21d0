import { useQuery } from "@tanstack/react-query";
import type { Shot } from "../../../../api/client";
import { shotsQuery } from "../../../../api/shotListQuery";
import { Row } from "../../../../form/Row";
import type { Edit } from "../../edit";

/** The shot whose clock this one is to have; preflight says when the two differ. */
export function LikeRow({ shot, edit }: { shot: Shot; edit: Edit }) {
  const { data } = useQuery(shotsQuery);
  const like = shot.document.clock.like ?? "";
  const others = (data?.shots ?? []).filter((line) => line.id !== shot.id && !line.error);
  return (
    <Row
      name="Same as"
      hint="Uses that shot's clock and follows its changes, so that both have the same count."
    >
      <select
        className="entry min-w-0 flex-1"
        aria-label="Same clock as"
        value={like}
        onChange={(event) => edit({ clock: { like: event.target.value || null } }, "whose clock it has")}
      >
        <option value="">none</option>
        {others.map((line) => (
          <option key={line.id} value={`${line.id}.json`}>
            {line.title}
          </option>
        ))}
      </select>
    </Row>
  );
}
