import type { ReactNode } from "react";
import type { Shot, ShotDocument } from "../../api/client";
import { hasDials } from "../../parts/kinds";
import { count, short } from "../../parts/words";
import { laneWords } from "./lanes";
import { flightWords, heightWords, turningWords, turnWords, walkWords } from "./rigs";
import type { PASSES } from "./sheets/PassRows";
import { useLooks } from "./useLooks";

export type Topic = "source" | "code" | "clock" | "orbit" | "lens" | "lanes" | "picture";

interface Props {
  shot: Shot;
  topic: Topic | null;
  onTopic: (topic: Topic | null) => void;
}

/** The shot as a sentence; every value in it opens its sheet. */
export function Brief({ shot, topic, onTopic }: Props) {
  const { clock, camera, cameras: further = [], picture, lanes = [], source } = shot.document;
  const { rig, lens } = camera ?? {};
  const looks = useLooks(shot);
  const handle = (of: Topic, words: ReactNode, name: string) => (
    <>
      <button
        type="button"
        className="handle"
        aria-expanded={topic === of}
        title={name}
        data-topic={of}
        onClick={() => onTopic(topic === of ? null : of)}
      >
        {words}
      </button>
      {/* No line begins with the comma behind it. */}
      <span className="joiner" />
    </>
  );
  const length =
    clock.frames != null ? `${clock.frames.toLocaleString("en")} frames` : `${short(clock.seconds ?? 0)} s`;
  return (
    <p className="mt-1 text-[17px] leading-[1.65]" data-testid="brief">
      Film {handle("source", subject(source), "Source")} for {handle("clock", length, "Length")} at{" "}
      {handle("clock", shot.reckoning.rate_label, "Rate")} as {handle("clock", spanWords(clock.span), "Span")}
      {source.kind === "simulation" && (
        <>, running {handle("source", `${short(source.pace ?? 1, 4)} s a second`, "Pace")}</>
      )}
      {source.kind === "stills" && source.reverse && <>, {handle("source", "backwards", "Order")}</>}
      {looks && rig?.kind === "orbit" && (rig.followed_by.length > 0 || rig.what !== "camera") && (
        <>, turning {handle("orbit", turningWords(rig), "Turns")},</>
      )}
      {looks && rig?.kind === "orbit" && rig.followed_by.length === 0 && rig.what === "camera" && (
        <>
          , going {handle("orbit", turnWords(rig.turns), "Turns")} round it{" "}
          {handle("orbit", rig.direction === "cw" ? "clockwise" : "counter-clockwise", "Direction")}
        </>
      )}
      {looks && rig?.kind === "path" && (
        <>
          , {handle("orbit", "flying", "Camera")} along {handle("orbit", flightWords(rig), "Keys")}
        </>
      )}
      {looks && rig?.kind === "stops" && (
        <>
          , {handle("orbit", "walking", "Camera")} by{" "}
          {handle("orbit", walkWords(rig, camera?.views ?? []), "Stops")}
        </>
      )}
      {looks && rig?.kind === "still" && <>, {handle("orbit", "standing", "Camera")} before it</>}
      {looks && (
        <>
          {rig && (rig.kind === "orbit" || (rig.kind === "still" && !rig.position)) && (
            <> from {handle("orbit", heightWords(rig.elevation_deg), "Elevation")}</>
          )}{" "}
          {lens?.projection === "panorama" ? (
            <>looking {handle("lens", lens.covers === "half" ? "half round" : "all round", "Lens")}</>
          ) : (
            <>through a {handle("lens", `${short(lens?.focal_mm ?? 50)} mm`, "Lens")} lens</>
          )}
          {further.length > 0 && (
            <>, and with {handle("orbit", count(further.length, "more camera"), "Cameras")}</>
          )}
        </>
      )}
      {lanes.length > 0 && ", while "}
      {lanes.map((lane, number) => (
        <span key={lane.drive}>
          {number > 0 && (number === lanes.length - 1 ? " and " : ", ")}
          {handle("lanes", laneWords(lane), "Lane")}
        </span>
      ))}
      , in {handle("picture", `${picture?.width} × ${picture?.height}`, "Size")}{" "}
      {looks && <>{handle("picture", passWords(picture?.passes ?? ["shaded"]), "Passes")} </>}
      frames on {handle("picture", <Ground colour={picture?.background ?? ""} />, "Background")}
      {lanes.length === 0 && <>, {handle("lanes", stillWords(source.kind, looks), "Lanes")}</>}.
    </p>
  );
}

function passWords(passes: (keyof typeof PASSES)[]): string {
  const told = passes.map((pass) => (pass === "edges" ? "edged" : pass));
  return told.length < 3
    ? told.join(" and ")
    : `${told.slice(0, -1).join(", ")} and ${told[told.length - 1]}`;
}

function stillWords(kind: ShotDocument["source"]["kind"], looks: boolean): string {
  if (looks) return "nothing else moving";
  return hasDials(kind) ? "no dial moving" : "no lane";
}

function subject(source: ShotDocument["source"]): string {
  const name = source.file.split("/").pop() ?? source.file;
  return source.kind === "stills" ? `${name} and the rest` : name;
}

function spanWords(span: string | undefined): string {
  return span === "ends" ? "a take with two ends" : "a loop";
}

function Ground({ colour }: { colour: string }) {
  if (colour === "transparent") return <>nothing (transparent)</>;
  if (colour.startsWith("image:")) return <>{colour.replace("image:", "")}</>;
  if (colour.includes(" "))
    return (
      <span
        className="mr-1 inline-block h-3.5 w-9 translate-y-[2px] rounded-sm border border-base-content/40"
        style={{ background: `linear-gradient(${colour.replace(" ", ", ")})` }}
        role="img"
        aria-label="a gradient"
      />
    );
  return (
    <span className="whitespace-nowrap">
      <span
        className="mr-1 inline-block size-3.5 translate-y-[2px] rounded-sm border border-base-content/40"
        style={{ background: colour }}
      />
      <span className="figures text-[15px]">{colour}</span>
    </span>
  );
}
