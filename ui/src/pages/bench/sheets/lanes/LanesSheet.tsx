import { useQuery } from "@tanstack/react-query";
import { CircleDot, Plus } from "lucide-react";
import { useState } from "react";
import { sourceQuery } from "../../../../api/queries";
import { targetName } from "../../../../api/vocabulary";
import { EasingEntry } from "../../../../form/EasingEntry";
import { Row } from "../../../../form/Row";
import { ErrorAlert } from "../../../../parts/ErrorAlert";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";
import { useBench } from "../../context";
import { type Lane, newLane } from "../../lanes";
import { roundRig } from "../../rigs";
import { LaneCard } from "./LaneCard";

/** All that changes over the shot beside the source itself. */
export function LanesSheet() {
  const { shot, edit, onPlayIn, onStagger } = useBench();
  const lanes = shot.document.lanes;
  const { data, error } = useQuery(sourceQuery(shot));
  const all = data?.targets ?? [];
  const driven = new Set(lanes.map((lane) => lane.drive));
  const free = all.filter((one) => !driven.has(one.drive));
  const save = (next: Lane[], what: string) => edit({ lanes: next }, what);
  return (
    <>
      <ErrorAlert error={error} />
      {lanes.length === 0 && (
        <p className="quiet mb-3 text-small">
          {all.length > 0
            ? "No lanes yet. A lane drives a dial or the camera from key to key over the shot."
            : "This source has no dials and no camera."}
        </p>
      )}
      {lanes.map((lane, number) => (
        <LaneCard
          key={lane.drive}
          shot={shot}
          lane={lane}
          drivable={all.find((one) => one.drive === lane.drive)}
          others={lanes.filter((other) => other !== lane).map((other) => other.drive)}
          onChange={(values) =>
            save(
              lanes.map((old, n) => (n === number ? { ...old, ...values } : old)),
              `the lane ${targetName(lane.drive)}`,
            )
          }
          onPlayIn={(of) => onPlayIn({ camera: false, of })}
          onRemove={() =>
            save(
              lanes.filter((_, n) => n !== number),
              `the lane ${targetName(lane.drive)}`,
            )
          }
        />
      ))}
      {data?.camera && roundRig(shot.document.camera.rig) && (
        <Row name="Camera" hint="Drag in the viewfinder while the shot plays; the drag becomes lanes.">
          <button type="button" className="btn btn-sm font-normal" onClick={() => onPlayIn({ camera: true })}>
            <CircleDot size={14} aria-hidden /> Record the camera
          </button>
        </Row>
      )}
      {free.length > 0 && (
        <>
          <h3 className="mb-1.5 text-small font-semibold">Add a lane for</h3>
          <div className="mb-4 flex flex-wrap gap-1.5">
            {free.map((one) => (
              <button
                key={one.drive}
                type="button"
                className="btn btn-sm font-normal"
                onClick={() =>
                  save(
                    [...lanes, newLane(one, shot.document.clock.span !== "ends")],
                    `a lane for ${one.name}`,
                  )
                }
              >
                <Plus size={14} aria-hidden /> {one.name}
              </button>
            ))}
          </div>
        </>
      )}
      {lanes.filter((lane) => lane.keys.length > 0).length > 1 && <StaggerRow onStagger={onStagger} />}
      <Row name="Whole shot" hint="Easing for the whole shot, its lanes and its rig.">
        <EasingEntry
          label="Easing of the whole shot"
          value={shot.document.ease}
          onChoose={(ease) => edit({ ease }, "the easing of the whole shot")}
        />
      </Row>
    </>
  );
}

/** Lets the lanes run one after another. */
function StaggerRow({ onStagger }: { onStagger: (overlap: number) => void }) {
  const [percent, setPercent] = useState(50);
  return (
    <Row name="Stagger" hint="Lanes run one after another; each overlaps the one before.">
      <NumberEntry
        label="Overlap of the lanes, per cent"
        value={percent}
        min={0}
        max={100}
        step={5}
        width="3.4rem"
        onCommit={setPercent}
      />
      <span className="quiet text-small">% overlap</span>
      <button type="button" className="btn btn-sm font-normal" onClick={() => onStagger(percent / 100)}>
        Stagger lanes
      </button>
    </Row>
  );
}
