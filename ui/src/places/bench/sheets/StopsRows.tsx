import { NumberEntry } from "../../../parts/NumberEntry";
import type { Edit } from "../edit";
import type { StopsRig } from "../rigs";
import { ChoiceRow } from "./ChoiceRow";
import { EasingEntry } from "./EasingEntry";
import { Row } from "./Row";

export const WAYS = [
  { value: "around", label: "around", hint: "About the subject's middle, on the shorter side" },
  { value: "straight", label: "straight" },
  { value: "cut", label: "cut", hint: "Takes no time" },
] as const;

/** A walk from view to view: what holds for all stops. */
export function StopsRows({ rig, edit, reason }: { rig: StopsRig; edit: Edit; reason: string }) {
  const set = (values: object, what: string) => edit({ camera: { rig: values } }, what);
  return (
    <>
      <Row name="Dwell" unit="s at each view">
        <NumberEntry
          label="Dwell at each view, seconds"
          width="4.2rem"
          min={0}
          step={0.5}
          value={rig.dwell_seconds}
          onCommit={(dwell_seconds) => set({ dwell_seconds }, "the rests")}
        />
      </Row>
      <Row name="Travel" unit="s to the next" hint={reason}>
        <NumberEntry
          label="Travel to the next view, seconds"
          width="4.2rem"
          min={0}
          step={0.5}
          value={rig.travel_seconds}
          onCommit={(travel_seconds) => set({ travel_seconds }, "the travels")}
        />
      </Row>
      <ChoiceRow
        name="Route"
        label="Route between views"
        value={rig.way}
        options={[...WAYS]}
        onChoose={(way) => set({ way }, "how it goes from view to view")}
      />
      <ChoiceRow
        name="Last view"
        label="Whether the route is closed"
        value={rig.closed ? "closed" : "open"}
        options={[
          { value: "open", label: "open" },
          { value: "closed", label: "closed" },
        ]}
        onChoose={(to) => set({ closed: to === "closed" }, "where the walk ends")}
      />
      <Row name="Easing">
        <EasingEntry
          label="Easing of each travel"
          value={rig.ease}
          onChoose={(ease) => set({ ease }, "the easing of the travels")}
        />
      </Row>
    </>
  );
}
