import { TextEntry } from "../../../parts/TextEntry";
import type { SheetProps } from "../Sheet";
import { Row } from "./Row";

/** Renderings of a frame, with their names for people. */
export const PASSES = {
  shaded: "shaded",
  edges: "with edges",
  wire: "wire",
  "hidden-line": "hidden line",
  clay: "clay",
  occlusion: "occlusion",
  depth: "depth",
  normal: "normals",
  matte: "matte",
} as const;
type Pass = keyof typeof PASSES;

/** Which passes are made of every frame, and how their files are told apart. */
export function PassRows({ shot, edit }: Pick<SheetProps, "shot" | "edit">) {
  const passes = (shot.document.picture?.passes ?? ["shaded"]) as Pass[];
  const cameras = shot.document.cameras?.length ?? 0;
  const toggle = (pass: Pass) => {
    const next = passes.includes(pass)
      ? passes.filter((on) => on !== pass)
      : (Object.keys(PASSES) as Pass[]).filter((on) => on === pass || passes.includes(on));
    if (next.length) edit({ picture: { passes: next } }, "the passes");
  };
  const several = passes.length > 1 || cameras > 0;
  return (
    <>
      <Row
        name="Passes"
        hint={
          several
            ? `${passes.length * (cameras + 1)} pictures of every frame`
            : "each more is one more picture of every frame"
        }
      >
        <fieldset className="flex min-w-0 flex-wrap gap-1" aria-label="Passes">
          {(Object.keys(PASSES) as Pass[]).map((pass) => (
            <button
              key={pass}
              type="button"
              aria-pressed={passes.includes(pass)}
              className={`btn btn-xs font-normal ${passes.includes(pass) ? "btn-primary" : ""}`}
              onClick={() => toggle(pass)}
            >
              {PASSES[pass]}
            </button>
          ))}
        </fieldset>
      </Row>
      {several && (
        <Row name="Files" hint="{title}, {camera}, {pass} and {frame:04}">
          <TextEntry
            label="Names of the files"
            value={
              shot.document.names?.pattern ??
              (cameras ? "{title}.{camera}.{pass}.{frame}" : "{title}.{pass}.{frame}")
            }
            className="entry min-w-0 flex-1 text-[12px]"
            onCommit={(pattern) => edit({ names: { pattern } }, "the names of the files")}
          />
        </Row>
      )}
    </>
  );
}
