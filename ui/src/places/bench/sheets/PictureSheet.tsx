import { useQuery } from "@tanstack/react-query";
import { recipesQuery } from "../../../api/fileQueries";
import { ColourEntry } from "../../../parts/ColourEntry";
import { NumberEntry } from "../../../parts/NumberEntry";
import { Presets } from "../../../parts/Presets";
import { TextEntry } from "../../../parts/TextEntry";
import { useBench } from "../context";
import { useLooks } from "../useLooks";
import { ChoiceRow } from "./ChoiceRow";
import { LabelRows } from "./LabelRows";
import { LightRows } from "./LightRows";
import { NumberRow } from "./NumberRow";
import { PassRows } from "./PassRows";
import { Row } from "./Row";

const SIZES: [number, number, string][] = [
  [1280, 720, "720p"],
  [1920, 1080, "1080p"],
  [3840, 2160, "2160p"],
  [1080, 1080, "square"],
  [1080, 1920, "portrait"],
];

/** What a kind of background begins with. */
const GROUNDS = {
  colour: "#2b2f33",
  gradient: "#c9d3d8 #5d6a72",
  image: "image:backdrop.jpg",
  clear: "transparent",
};

function groundOf(background: string): keyof typeof GROUNDS {
  if (background === "transparent") return "clear";
  if (background.startsWith("image:")) return "image";
  return background.includes(" ") ? "gradient" : "colour";
}

export function PictureSheet() {
  const { shot, edit } = useBench();
  const picture = shot.document.picture;
  const set = (values: object, what: string) => edit({ picture: values }, what);
  const { data: recipes } = useQuery(recipesQuery);
  const looks = useLooks(shot);
  const background = picture.background;
  const clear = background === "transparent";
  const ground = groundOf(background);
  return (
    <>
      <Row name="Size" unit="px">
        <NumberEntry
          label="Width"
          whole
          width="4.2rem"
          min={16}
          max={16384}
          value={picture.width}
          onCommit={(width) => set({ width }, "the width")}
        />
        <span aria-hidden>×</span>
        <NumberEntry
          label="Height"
          whole
          width="4.2rem"
          min={16}
          max={16384}
          value={picture.height}
          onCommit={(height) => set({ height }, "the height")}
        />
      </Row>
      <div className="mb-3 flex flex-wrap gap-1 pl-label">
        {SIZES.map(([width, height, name]) => (
          <button
            key={name}
            type="button"
            title={`${width} × ${height}`}
            className={`btn btn-xs font-normal ${width === picture.width && height === picture.height ? "btn-primary" : ""}`}
            onClick={() => set({ width, height }, "the size")}
          >
            {name}
          </button>
        ))}
      </div>
      <Row name="Samples" hint="Per pixel: 1 is fast and jagged, 4 is clean, 16 is for fine lines.">
        <NumberEntry
          label="Samples"
          whole
          width="4.2rem"
          min={1}
          max={256}
          value={picture.samples}
          onCommit={(samples) => set({ samples }, "the samples")}
        />
        <Presets
          values={[1, 4, 8, 16]}
          current={picture.samples}
          onChoose={(samples) => set({ samples }, "the samples")}
        />
      </Row>
      {looks && <PassRows shot={shot} edit={edit} />}
      <ChoiceRow
        name="Background"
        hint={clear ? "PNG frames keep alpha; MP4 has none and uses black" : undefined}
        label="Background"
        value={ground}
        options={[
          { value: "colour", label: "colour" },
          { value: "gradient", label: "gradient" },
          { value: "image", label: "image" },
          { value: "clear", label: "clear", hint: "transparent" },
        ]}
        onChoose={(to) => set({ background: GROUNDS[to] }, "the background")}
      />
      {ground === "gradient" && (
        <div className="mb-2.5 flex items-center gap-2 pl-label text-small">
          {["above", "below"].map((side, n) => (
            <span key={side} className="flex items-center gap-1">
              <ColourEntry
                label={`Background ${side}`}
                value={background.split(" ")[n]}
                onCommit={(colour) =>
                  set({ background: background.split(" ").with(n, colour).join(" ") }, "the background")
                }
              />
              {side}
            </span>
          ))}
        </div>
      )}
      {ground === "image" && (
        <Row name="" hint="a file beside the shot document; fills the frame">
          <TextEntry
            label="Image behind the subject"
            value={background.replace("image:", "")}
            className="entry min-w-0 flex-1 text-note"
            onCommit={(file) => set({ background: `image:${file}` }, "the background")}
          />
        </Row>
      )}
      {ground === "colour" && (
        <div className="flex items-center gap-2 pl-label">
          <ColourEntry
            label="Background colour"
            value={picture.background}
            onCommit={(colour) => set({ background: colour }, "the background")}
          />
          {["#2b2f33", "#777777", "#d9dcdd", "#ffffff", "#000000"].map((colour) => (
            <button
              key={colour}
              type="button"
              aria-label={`Background ${colour}`}
              title={colour}
              className={`size-6 rounded border ${colour === picture.background ? "border-primary ring-2 ring-primary" : "border-base-content/40"}`}
              style={{ background: colour }}
              onClick={() => set({ background: colour }, "the background")}
            />
          ))}
        </div>
      )}
      {looks && (
        <ChoiceRow
          name="Ground"
          hint={picture.ground ? "Catches shadows, matches the background." : undefined}
          label="Ground"
          value={picture.ground ? "some" : "none"}
          options={[
            { value: "none", label: "none" },
            { value: "some", label: "under the subject" },
          ]}
          onChoose={(to) => set({ ground: to === "some" }, "the ground")}
        />
      )}
      {looks && picture.ground && (
        <NumberRow
          name="Contact"
          unit="% dark"
          label="Contact shadow, per cent"
          value={picture.contact * 100}
          min={0}
          max={100}
          step={10}
          width="4.4rem"
          onCommit={(percent) => set({ contact: percent / 100 }, "the contact shadow")}
        />
      )}
      <ChoiceRow
        name="Frames"
        label="Format of the frames"
        value={picture.format}
        options={[
          { value: "png", label: "PNG" },
          { value: "png16", label: "16 bits", hint: "PNG with 16 bits a channel" },
          { value: "exr", label: "EXR", hint: "OpenEXR: linear light in half floats" },
        ]}
        onChoose={(format) => set({ format }, "the format of the frames")}
      />
      {clear && (
        <ChoiceRow
          name="Alpha"
          hint={
            picture.alpha === "premultiplied"
              ? "Colours multiplied by alpha: for compositing."
              : "Colours as they are: for most programs."
          }
          label="Alpha of the frames"
          value={picture.alpha}
          options={[
            { value: "straight", label: "straight" },
            { value: "premultiplied", label: "premultiplied" },
          ]}
          onChoose={(alpha) => set({ alpha }, "the alpha")}
        />
      )}
      <Row name="Output format" hint="Findings say what this kind of file cannot keep.">
        <select
          className="entry min-w-0 flex-1"
          aria-label="Output format"
          value={shot.document.recipe}
          onChange={(event) => edit({ recipe: event.target.value }, "what it is made into")}
        >
          {recipes?.recipes
            .filter((recipe) => !recipe.own)
            .map((recipe) => (
              <option key={recipe.name} value={recipe.name}>
                {recipe.about}
              </option>
            ))}
        </select>
      </Row>
      {looks && <LightRows shot={shot} edit={edit} />}
      <LabelRows shot={shot} edit={edit} />
    </>
  );
}
