import type { Schemas } from "../../../../api/client";
import { passLabel, vocabulary } from "../../../../api/vocabulary";
import { Row } from "../../../../form/Row";
import { TextEntry } from "../../../../parts/entries/TextEntry";
import { useDetails } from "../../../../parts/hooks/useDetails";
import type { BenchValue } from "../../context";

type Pass = Schemas["PassBody"]["name"];

/** The passes that are made of every frame, and the names of their files. */
export function PassRows({ shot, edit }: Pick<BenchValue, "shot" | "edit">) {
  const all = vocabulary().passes.map((pass) => pass.name);
  const passes: Pass[] = shot.document.picture.passes;
  const cameras = shot.document.cameras.length;
  const toggle = (pass: Pass) => {
    const next = passes.includes(pass)
      ? passes.filter((on) => on !== pass)
      : all.filter((on) => on === pass || passes.includes(on));
    if (next.length) edit({ picture: { passes: next } }, "the passes");
  };
  const details = useDetails();
  const shown = details ? all : all.filter((pass) => passes.includes(pass));
  const several = passes.length > 1 || cameras > 0;
  return (
    <>
      <Row
        name="Passes"
        hint={
          several ? `${passes.length * (cameras + 1)} images per frame` : "each pass adds one image per frame"
        }
      >
        <fieldset className="flex min-w-0 flex-wrap gap-1" aria-label="Passes">
          {shown.map((pass) => (
            <button
              key={pass}
              type="button"
              aria-pressed={passes.includes(pass)}
              className={`btn btn-xs font-normal ${passes.includes(pass) ? "btn-primary" : ""}`}
              onClick={() => toggle(pass)}
            >
              {passLabel(pass)}
            </button>
          ))}
          {shown.length < all.length && (
            <select
              className="entry w-auto font-sans text-note"
              aria-label="Add a pass"
              value=""
              onChange={(event) => toggle(event.target.value as Pass)}
            >
              <option value="">add a pass</option>
              {all
                .filter((pass) => !shown.includes(pass))
                .map((pass) => (
                  <option key={pass} value={pass}>
                    {passLabel(pass)}
                  </option>
                ))}
            </select>
          )}
        </fieldset>
      </Row>
      {several && (
        <Row name="Files" hint="{title}, {camera}, {pass} and {frame:04}">
          <TextEntry
            label="Names of the files"
            value={
              shot.document.names.pattern ??
              (cameras ? "{title}.{camera}.{pass}.{frame}" : "{title}.{pass}.{frame}")
            }
            className="entry min-w-0 flex-1 text-note"
            onCommit={(pattern) => edit({ names: { pattern } }, "the names of the files")}
          />
        </Row>
      )}
    </>
  );
}
