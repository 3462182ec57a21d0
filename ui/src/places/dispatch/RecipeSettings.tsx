import type { ReactNode } from "react";
import { NumberEntry } from "../../parts/NumberEntry";
import { TextEntry } from "../../parts/TextEntry";
import { type FullRecipe, type RecipeDocument, withPart } from "./draft";

interface Props {
  recipe: FullRecipe;
  document: RecipeDocument;
  /** Whether frames of the take are missing. */
  holes: boolean;
  onChange: (document: RecipeDocument) => void;
}

/** What can be set of a recipe; only what its kind of file has. */
export function RecipeSettings({ recipe, document, holes, onChange }: Props) {
  const { quality, size, timing, palette } = document;
  const scale = recipe.scale;
  const plain = recipe.pictures && document.codec !== "as-made";
  return (
    <div className="flex flex-col gap-1.5 text-small">
      {scale && (
        <Row name="Quality" hint={`${scale.best} is best, ${scale.worst} smallest`}>
          <NumberEntry
            label="Quality"
            width="5rem"
            min={Math.min(scale.best, scale.worst)}
            max={Math.max(scale.best, scale.worst)}
            value={quality?.level ?? scale.usual}
            onCommit={(level) =>
              onChange(withPart(document, "quality", { level, at_most: "", kilobits: null }))
            }
          />
        </Row>
      )}
      {(scale || document.codec === "gif") && (
        <Row name="File at most" hint="such as 8 MB; empty for no limit">
          <TextEntry
            label="File at most"
            value={quality?.at_most ?? ""}
            placeholder="no limit"
            onCommit={(at_most) =>
              onChange(withPart(document, "quality", { at_most, level: null, kilobits: null }))
            }
          />
        </Row>
      )}
      {plain && (
        <Row name="Long side" hint="px; smaller frames are not enlarged">
          <TextEntry
            label="Long side"
            value={size?.long_side ? String(size.long_side) : ""}
            placeholder="as captured"
            onCommit={(text) =>
              onChange(
                withPart(document, "size", {
                  long_side: text.trim() ? Number(text) : null,
                  width: null,
                  height: null,
                }),
              )
            }
          />
        </Row>
      )}
      {plain && recipe.document.container !== "folder" && recipe.document.container !== "still" && (
        <Row name="Rate" hint={timing?.rate ? "" : "fps; empty keeps the take's"}>
          <TextEntry
            label="Rate of the file"
            width={timing?.rate ? "5rem" : undefined}
            value={timing?.rate ?? ""}
            placeholder="as captured"
            onCommit={(rate) => onChange(withPart(document, "timing", { rate }))}
          />
          {timing?.rate && (
            <select
              className="select select-sm w-auto"
              aria-label="Between frames"
              value={timing.between ?? "nearest"}
              onChange={(event) =>
                onChange(
                  withPart(document, "timing", {
                    between: event.target.value as "nearest" | "blend" | "refuse",
                  }),
                )
              }
            >
              <option value="nearest">nearest frame</option>
              <option value="blend">blended</option>
              <option value="refuse">refuse</option>
            </select>
          )}
        </Row>
      )}
      {document.codec !== "handover" && (
        <Row
          name="Frames"
          hint={
            document.container === "still" ? "a number, first, middle or last" : "a stretch such as 24-95"
          }
        >
          <TextEntry
            label="Frames of the file"
            value={timing?.frames ?? ""}
            placeholder="all"
            onCommit={(frames) => onChange(withPart(document, "timing", { frames }))}
          />
        </Row>
      )}
      {holes && document.codec !== "handover" && (
        <Row name="Missing frames" hint="of the take">
          <select
            className="select select-sm w-auto"
            aria-label="Missing frames"
            value={timing?.missing ?? "refuse"}
            onChange={(event) =>
              onChange(withPart(document, "timing", { missing: event.target.value as "refuse" | "hold" }))
            }
          >
            <option value="refuse">refuse</option>
            <option value="hold">hold the one before</option>
          </select>
        </Row>
      )}
      {recipe.plays && (
        <Row name="Plays" hint="0 is for ever">
          <NumberEntry
            label="Plays"
            whole
            width="5rem"
            min={0}
            max={65535}
            value={timing?.plays ?? 0}
            onCommit={(plays) => onChange(withPart(document, "timing", { plays }))}
          />
        </Row>
      )}
      {document.codec === "gif" && (
        <Row name="Colours" hint="2 to 256">
          <NumberEntry
            label="Colours"
            whole
            width="5rem"
            min={2}
            max={256}
            value={palette?.colours ?? 256}
            onCommit={(colours) => onChange(withPart(document, "palette", { colours }))}
          />
          <select
            className="select select-sm w-auto"
            aria-label="Dither"
            value={palette?.dither ?? "diffuse"}
            onChange={(event) =>
              onChange(
                withPart(document, "palette", {
                  dither: event.target.value as "none" | "ordered" | "diffuse",
                }),
              )
            }
          >
            <option value="diffuse">diffused</option>
            <option value="ordered">ordered</option>
            <option value="none">no dither</option>
          </select>
        </Row>
      )}
      {recipe.alpha !== "whole" && plain && (
        <Row name="Ground" hint="under transparent frames">
          <TextEntry
            label="Ground"
            value={document.ground ?? "#000000"}
            onCommit={(ground) => onChange({ ...document, ground })}
          />
        </Row>
      )}
    </div>
  );
}

function Row({ name, hint, children }: { name: string; hint: string; children: ReactNode }) {
  return (
    <div className="flex items-center gap-2">
      <span className="w-28 shrink-0" title={hint}>
        {name}
      </span>
      <span className="flex min-w-0 flex-1 items-center gap-2">{children}</span>
      {hint && <span className="quiet w-32 text-right text-note leading-tight">{hint}</span>}
    </div>
  );
}
