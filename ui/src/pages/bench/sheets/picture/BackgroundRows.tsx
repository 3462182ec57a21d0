import { Row } from "../../../../form/Row";
import { Choice } from "../../../../parts/entries/Choice";
import { ColourEntry } from "../../../../parts/entries/ColourEntry";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { useDetails } from "../../../../parts/hooks/useDetails";
import type { BenchValue } from "../../context";

/** What a kind of background begins with. */
const GROUNDS = {
  colour: "#2b2f33",
  gradient: "#c9d3d8 #5d6a72",
  image: "image:backdrop.jpg",
  clear: "transparent",
};
const USUAL = ["#2b2f33", "#777777", "#d9dcdd", "#ffffff", "#000000"];

function groundOf(background: string): keyof typeof GROUNDS {
  if (background === "transparent") return "clear";
  if (background.startsWith("image:")) return "image";
  return background.includes(" ") ? "gradient" : "colour";
}

/** What is behind the subject. */
export function BackgroundRows({ shot, edit }: Pick<BenchValue, "shot" | "edit">) {
  const { background } = shot.document.picture;
  const ground = groundOf(background);
  const details = useDetails();
  const set = (to: string) => edit({ picture: { background: to } }, "the background");
  return (
    <>
      <Row
        name="Background"
        hint={ground === "clear" ? "PNG frames keep alpha; MP4 has none and uses black" : undefined}
      >
        <Choice
          label="Background"
          value={ground}
          options={[
            { value: "colour", label: "colour" },
            { value: "gradient", label: "gradient" },
            { value: "image", label: "image" },
            { value: "clear", label: "clear", hint: "transparent" },
          ]}
          onChoose={(to) => set(GROUNDS[to])}
        />
      </Row>
      {ground === "gradient" && (
        <div className="mb-2.5 flex items-center gap-2 pl-label text-small">
          {["above", "below"].map((side, n) => (
            <span key={side} className="flex items-center gap-1">
              <ColourEntry
                label={`Background ${side}`}
                value={background.split(" ")[n]}
                onCommit={(colour) => set(background.split(" ").with(n, colour).join(" "))}
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
            className="entry text-note"
            onCommit={(file) => set(`image:${file}`)}
          />
        </Row>
      )}
      {ground === "colour" && (
        <div className="mb-2.5 flex items-center gap-2 pl-label">
          <ColourEntry label="Background colour" value={background} onCommit={set} />
          {details &&
            USUAL.map((colour) => (
              <button
                key={colour}
                type="button"
                aria-label={`Background ${colour}`}
                title={colour}
                className={`size-6 rounded border ${colour === background ? "border-primary ring-2 ring-primary" : "border-base-content/40"}`}
                style={{ background: colour }}
                onClick={() => set(colour)}
              />
            ))}
        </div>
      )}
    </>
  );
}
