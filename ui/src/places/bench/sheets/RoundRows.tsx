import { Crosshair } from "lucide-react";
import { short } from "../../../parts/words";
import type { BenchValue } from "../context";
import type { Edit } from "../edit";
import type { Rig } from "../rigs";
import { ChoiceRow } from "./ChoiceRow";
import { EasingEntry } from "./EasingEntry";
import { NumberRow } from "./NumberRow";
import { PointEntry } from "./PointEntry";
import { Row } from "./Row";
import { TurnRows } from "./TurnRows";

type StandingRig = Exclude<Rig, { kind: "path" | "stops" }>;
/** Usual ways to look at something: start and elevation in degrees. */
const SIDES: [string, number, number][] = [
  ["front", 0, 0],
  ["right", 90, 0],
  ["back", 180, 0],
  ["left", -90, 0],
  ["top", 0, 90],
  // All three axes are equally foreshortened: elevation atan(1/√2).
  ["isometric", 45, 35.2644],
];

interface Props extends Pick<BenchValue, "shot" | "onPick"> {
  rig: StandingRig;
  edit: Edit;
}

/** A camera that stands before its subject, or goes round it. */
export function RoundRows({ shot, rig, edit, onPick }: Props) {
  const set = (values: object, what: string) => edit({ camera: { rig: values } }, what);
  const centre = rig.centre ?? null;
  const point = Array.isArray(centre) ? centre : null;
  const placed = rig.kind === "still" ? rig.position : null;
  return (
    <>
      {rig.kind === "orbit" && (
        <TurnRows
          rig={rig}
          edit={edit}
          degrees={`${short(shot.reckoning.degrees_a_frame ?? 0, 4)}° per frame`}
        />
      )}
      <div className="mb-2.5 flex flex-wrap gap-1 pl-label">
        {SIDES.map(([name, start_deg, elevation_deg]) => (
          <button
            key={name}
            type="button"
            className={`btn btn-xs font-normal ${!placed && rig.start_deg === start_deg && rig.elevation_deg === elevation_deg ? "btn-primary" : ""}`}
            onClick={() =>
              set(
                rig.kind === "still"
                  ? { start_deg, elevation_deg, roll_deg: 0, position: null }
                  : { start_deg, elevation_deg },
                `the view from the ${name}`,
              )
            }
          >
            {name}
          </button>
        ))}
      </div>
      {placed ? (
        <Point
          name="Position"
          values={placed}
          onChange={(position) => set({ position }, "the camera position")}
          onClear={() => set({ position: null }, "the camera position")}
        />
      ) : (
        <>
          <NumberRow
            name="Start"
            unit="°"
            hint="0° looks at the front, along +y; 90° from the right"
            label="Start angle"
            value={rig.start_deg}
            step={5}
            onCommit={(start_deg) => set({ start_deg }, "the start angle")}
          />
          <NumberRow
            name="Elevation"
            unit="°"
            hint="above the horizon; below 0 looks from underneath"
            label="Elevation"
            value={rig.elevation_deg}
            min={-90}
            max={90}
            step={1}
            onCommit={(elevation_deg) => set({ elevation_deg }, "the elevation")}
          />
          <ChoiceRow
            name="Framing"
            label="Framing"
            value={rig.distance == null ? "fill" : "distance"}
            options={[
              { value: "fill", label: "by fill" },
              { value: "distance", label: "by distance" },
            ]}
            onChoose={(to) => set({ distance: to === "fill" ? null : 10 }, "how far off it stands")}
          />
          {rig.distance == null ? (
            <NumberRow
              name="Fill"
              unit="%"
              hint="share of the frame's shorter side that the subject fills"
              label="Fill, per cent"
              value={rig.fill * 100}
              min={2}
              max={400}
              step={1}
              onCommit={(percent) => set({ fill: percent / 100 }, "the fill")}
            />
          ) : (
            <NumberRow
              name="Distance"
              hint="from the centre, in the source's units"
              label="Distance from the centre"
              value={rig.distance}
              min={1e-6}
              step={0.1}
              onCommit={(distance) => set({ distance }, "the distance")}
            />
          )}
        </>
      )}
      <ChoiceRow
        name={rig.kind === "orbit" ? "Round" : "Looks at"}
        hint={
          point
            ? "x, y, z in the source's units"
            : centre === "centroid"
              ? "the centroid of its surface"
              : "the centre of its bounding box over the whole shot"
        }
        label="The centre"
        value={point ? "point" : centre === "centroid" ? "centroid" : "middle"}
        options={[
          { value: "middle", label: "middle" },
          { value: "centroid", label: "centroid" },
          { value: "point", label: "a point" },
        ]}
        onChoose={(to) =>
          set({ centre: to === "point" ? [0, 0, 0] : to === "middle" ? null : to }, "the centre")
        }
      />
      {point && (
        <Point name="" label="Centre" values={point} onChange={(to) => set({ centre: to }, "the centre")} />
      )}
      <button
        type="button"
        className="btn btn-xs mb-2.5 ml-[84px] font-normal"
        title="Click in the picture to set the centre"
        onClick={onPick}
      >
        <Crosshair size={13} aria-hidden /> Pick it in the picture
      </button>
      {rig.kind === "still" && (
        <>
          <NumberRow
            name="Roll"
            unit="°"
            hint="clockwise; 0 keeps the horizon level"
            label="Roll"
            value={rig.roll_deg}
            min={-180}
            max={180}
            onCommit={(roll_deg) => set({ roll_deg }, "the roll")}
          />
          {rig.roll_deg !== 0 && (
            <button
              type="button"
              className="btn btn-xs mb-2 ml-[84px] font-normal"
              onClick={() => set({ roll_deg: 0 }, "the horizon")}
            >
              Level the horizon
            </button>
          )}
        </>
      )}
      {rig.kind === "orbit" && (
        <>
          <Point
            name="Axis"
            hint="of rotation, pointing up: 0, 0, 1 is vertical"
            values={rig.axis}
            onChange={(axis) => set({ axis }, "the axis")}
          />
          <Row name="Easing" hint="linear turns at constant speed">
            <EasingEntry
              label="Easing of each turn"
              value={rig.ease}
              onChoose={(ease) => set({ ease }, "the easing of the turns")}
            />
          </Row>
        </>
      )}
    </>
  );
}

interface PointProps {
  name: string;
  label?: string;
  hint?: string;
  values: number[];
  onChange: (values: number[]) => void;
  onClear?: () => void;
}

function Point({ name, label = name, hint, values, onChange, onClear }: PointProps) {
  return (
    <Row name={name} hint={hint}>
      <span className="flex min-w-0 flex-wrap gap-1">
        <PointEntry label={label} values={values} onChange={onChange} />
        {onClear && (
          <button type="button" className="btn btn-xs font-normal" onClick={onClear}>
            Place by angle and fill
          </button>
        )}
      </span>
    </Row>
  );
}
