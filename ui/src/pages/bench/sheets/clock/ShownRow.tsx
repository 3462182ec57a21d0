import { Pair } from "../../../../form/Pair";
import { Row } from "../../../../form/Row";
import type { BenchValue } from "../../context";

/** Which frames of the motion are shown. */
export function ShownRow({ shot, edit }: Pick<BenchValue, "shot" | "edit">) {
  const { clock } = shot.document;
  const end = shot.timing.motion - 1;
  return (
    <Row name="Frames">
      <Pair
        whole
        width="4.6rem"
        first={{
          label: "First frame shown",
          min: 0,
          max: clock.last ?? end,
          value: clock.first,
          onCommit: (first) => edit({ clock: { first } }, "the first frame"),
        }}
        word="to"
        second={{
          label: "Last frame shown",
          min: clock.first,
          max: end,
          value: clock.last ?? end,
          onCommit: (last) => edit({ clock: { last: last === end ? null : last } }, "the last frame"),
        }}
      />
    </Row>
  );
}
