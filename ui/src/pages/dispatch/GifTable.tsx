import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { size } from "../../parts/format";
import { type RecipeDocument, withPart } from "./draft";
import { askGifTable, type Subject } from "./subject";

interface Props {
  subject: Subject;
  document: RecipeDocument;
  onChange: (document: RecipeDocument) => void;
}

/** What a GIF weighs by width, colours and rate; a press takes a row's settings. */
export function GifTable({ subject, document, onChange }: Props) {
  const going = useRef<AbortController | null>(null);
  const measure = useMutation({
    mutationFn: () => {
      going.current = new AbortController();
      return askGifTable(subject, document, going.current.signal);
    },
  });
  useEffect(() => () => going.current?.abort(), []);
  const rows = measure.data?.rows ?? [];
  return (
    <section aria-label="Sizes of the GIF" className="text-small" data-testid="gif-table">
      <button
        type="button"
        className="btn btn-sm"
        disabled={measure.isPending}
        onClick={() => measure.mutate()}
      >
        {measure.isPending ? "Measuring on a sample…" : "Measure sizes"}
      </button>
      {measure.isPending && (
        <button type="button" className="btn btn-ghost btn-sm ml-1" onClick={() => going.current?.abort()}>
          Stop
        </button>
      )}
      {measure.error?.name !== "AbortError" && <ErrorAlert error={measure.error} />}
      {rows.length > 0 && (
        <table className="figures mt-2 w-full">
          <thead>
            <tr className="quiet text-left text-note">
              <th className="font-normal">px</th>
              <th className="font-normal">colours</th>
              <th className="font-normal">rate</th>
              <th className="font-normal">about</th>
              <th aria-label="Use" />
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={`${row.long_side} ${row.colours} ${row.rate}`} className="border-t rule">
                <td>{row.long_side}</td>
                <td>{row.colours}</td>
                <td>{row.rate || "as captured"}</td>
                <td>{size(row.bytes)}</td>
                <td className="text-right">
                  <button
                    type="button"
                    className="btn btn-xs"
                    aria-label={`Use ${row.long_side} px, ${row.colours} colours, ${row.rate || "the take's rate"}`}
                    onClick={() =>
                      onChange(
                        withPart(
                          withPart(
                            withPart(document, "size", {
                              long_side: row.long_side,
                              width: null,
                              height: null,
                            }),
                            "palette",
                            { colours: row.colours, dither: "diffuse" },
                          ),
                          "timing",
                          { rate: row.rate },
                        ),
                      )
                    }
                  >
                    Use
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
