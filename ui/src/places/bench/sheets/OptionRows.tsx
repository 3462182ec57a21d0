import type { ReactNode } from "react";
import type { ShotDocument } from "../../../api/client";
import { TextEntry } from "../../../parts/TextEntry";
import type { Edit } from "../edit";
import { ChoiceRow } from "./ChoiceRow";
import { NumberRow } from "./NumberRow";
import { Row } from "./Row";

type Fixed = Extract<ShotDocument["source"], { kind: "stills" | "clip" }>;

interface Props {
  source: ShotDocument["source"];
  animations: string[];
  layers: string[];
  edit: Edit;
}

/** What a shot says of how its source is read, kind by kind. */
export function OptionRows({ source, animations, layers, edit }: Props) {
  const set = (patch: Record<string, unknown>, what: string) => edit({ source: patch }, what);
  const seed = (about: string): ReactNode => (
    <NumberRow
      name="Seed"
      hint={about}
      label="Seed"
      whole
      min={0}
      value={"seed" in source ? source.seed : 0}
      onCommit={(value) => set({ seed: value }, "the seed")}
    />
  );
  const between = (fixed: Fixed) => (
    <ChoiceRow
      name="Between"
      hint="Where frame times differ from the source's."
      label="Between pictures"
      value={fixed.between}
      options={[
        { value: "nearest", label: "the one before" },
        { value: "blend", label: "both" },
        { value: "refuse", label: "refuse", hint: "No frame may be dropped or doubled" },
      ]}
      onChoose={(to) => set({ between: to }, "interpolation")}
    />
  );
  switch (source.kind) {
    case "sketch":
      return seed("for the random numbers passed to the drawing");
    case "page":
      return seed("for Math.random");
    case "simulation":
      return (
        <>
          <NumberRow
            name="Pace"
            unit="s per second"
            hint="simulated seconds per second of video"
            label="Pace"
            min={1e-9}
            step={0.1}
            value={source.pace}
            onCommit={(pace) => set({ pace }, "the pace")}
          />
          <NumberRow
            name="Warm-up"
            unit="steps"
            hint="run before frame 0"
            label="Warm-up steps"
            whole
            min={0}
            step={10}
            value={source.warm_up}
            onCommit={(steps) => set({ warm_up: steps }, "the warm-up")}
          />
          {seed("for the random numbers passed to start")}
        </>
      );
    case "object":
      return (
        <>
          <ChoiceRow
            name="Up"
            hint="the file's axis that points up; auto is y for glTF, else z"
            label="Up axis"
            value={source.up}
            options={[
              { value: "auto", label: "auto" },
              { value: "y", label: "y" },
              { value: "z", label: "z" },
            ]}
            onChoose={(up) => set({ up }, "the up axis")}
          />
          {/\.ply$/i.test(source.file) && (
            <NumberRow
              name="Low pass"
              unit="px²"
              hint="added to the variance of a scan's soft points; scans are made with 0.3"
              label="Low pass of soft points"
              min={0}
              step={0.1}
              value={source.low_pass}
              onCommit={(low_pass) => set({ low_pass }, "the low pass")}
            />
          )}
          {animations.length > 1 && (
            <Row name="Animation">
              <select
                className="entry"
                aria-label="Animation of the file"
                value={source.animation || animations[0]}
                onChange={(event) => set({ animation: event.target.value }, "the animation")}
              >
                {animations.map((name) => (
                  <option key={name}>{name}</option>
                ))}
              </select>
            </Row>
          )}
        </>
      );
    case "stills":
      return (
        <>
          <Row name="Rate" unit="pictures per second">
            <TextEntry
              label="Rate of the stills"
              value={source.rate}
              width="5rem"
              onCommit={(rate) => set({ rate }, "the rate of the stills")}
            />
          </Row>
          <ChoiceRow
            name="Order"
            label="Order"
            value={source.reverse ? "backwards" : "forwards"}
            options={[
              { value: "forwards", label: "forwards" },
              { value: "backwards", label: "backwards" },
            ]}
            onChoose={(order) => set({ reverse: order === "backwards" }, "the order")}
          />
          <ChoiceRow
            name="Gaps"
            hint="what to show for a missing number"
            label="Gaps"
            value={source.gaps}
            options={[
              { value: "refuse", label: "refuse" },
              { value: "hold", label: "hold", hint: "The previous picture" },
              { value: "blend", label: "blend", hint: "A blend of its neighbours" },
            ]}
            onChoose={(gaps) => set({ gaps }, "the gaps")}
          />
          {between(source)}
          {layers.length > 1 && (
            <Row name="Layer">
              <select
                className="entry"
                aria-label="Layer of the files"
                value={source.layer}
                onChange={(event) => set({ layer: event.target.value }, "the layer")}
              >
                {!layers.includes("") && <option value="">the first: {layers[0]}</option>}
                {layers.map((name) => (
                  <option key={name} value={name}>
                    {name || "the main one"}
                  </option>
                ))}
              </select>
            </Row>
          )}
        </>
      );
    case "clip":
      return (
        <>
          {between(source)}
          <ChoiceRow
            name="Fields"
            hint="of interlaced video"
            label="Fields"
            value={source.fields}
            options={[
              { value: "as-is", label: "as they are" },
              { value: "deinterlace", label: "deinterlace" },
            ]}
            onChoose={(fields) => set({ fields }, "deinterlacing")}
          />
          <ChoiceRow
            name="Colours"
            hint="of HDR and BT.2020 video"
            label="Colours"
            value={source.colours}
            options={[
              { value: "as-is", label: "as they are" },
              { value: "srgb", label: "convert to sRGB", hint: "HDR through a tone curve" },
            ]}
            onChoose={(colours) => set({ colours }, "the colours")}
          />
        </>
      );
    case "series":
      return (
        <>
          <ChoiceRow
            name="Show"
            label="Slices"
            value={source.rate == null ? "frame" : "rate"}
            options={[
              { value: "frame", label: "one per frame" },
              { value: "rate", label: "at a rate" },
            ]}
            onChoose={(how) => set({ rate: how === "rate" ? "12" : null }, "the rate of the data")}
          />
          {source.rate != null && (
            <>
              <Row name="Rate" unit="slices per second">
                <TextEntry
                  label="Rate of the data"
                  value={source.rate}
                  width="5rem"
                  onCommit={(rate) => set({ rate }, "the rate of the data")}
                />
              </Row>
              <ChoiceRow
                name="Between"
                hint="what is shown between two slices"
                label="Between slices"
                value={source.between}
                options={[
                  { value: "nearest", label: "the one before" },
                  { value: "linear", label: "both, mixed" },
                ]}
                onChoose={(between) => set({ between }, "interpolation")}
              />
            </>
          )}
        </>
      );
    default:
      return null;
  }
}
