import { useState } from "react";
import { body, client, type Schemas } from "../../api/client";
import { useChange } from "../../parts/hooks/useChange";
import { type Playhead, usePlayhead } from "./playhead";
import type { Feed } from "./useFeed";

interface Props {
  playhead: Playhead;
  feed: Feed;
  /** The pixel under the pointer. */
  point: { x: number; y: number } | null;
  scale: number;
}

const REST_MS = 90;

/** The pixel under the pointer, in the numbers of its file; and the scale of the picture. */
export function PixelLine({ playhead, feed, point, scale }: Props) {
  const { frame, playing, standIn } = usePlayhead(playhead);
  const [found, setFound] = useState<{ of: string; body?: Schemas["PixelBody"]; wrong?: string } | null>(
    null,
  );
  const own = feed.frameAt(frame);
  const of =
    point && own !== null
      ? `${feed.of.kind} ${feed.of.name} ${feed.of.pass} ${own} ${point.x} ${point.y}`
      : "";
  useChange(`${of} ${playing}`, () => {
    if (!of || !point || own === null || playing) return;
    const { kind, name, pass } = feed.of;
    let alive = true;
    // A pointer that moves on asks nothing.
    const rest = setTimeout(async () => {
      try {
        const query = { camera_pass: pass, frame: own, x: point.x, y: point.y };
        const answer = await body(
          client.GET("/api/reviews/{kind}/{name}/pixel", { params: { path: { kind, name }, query } }),
        );
        if (alive) setFound({ of, body: answer });
      } catch (error) {
        if (alive) setFound({ of, wrong: error instanceof Error ? error.message : String(error) });
      }
    }, REST_MS);
    return () => {
      alive = false;
      clearTimeout(rest);
    };
  });
  const shown = found?.of === of ? found : null;
  return (
    <div className="figures pointer-events-none absolute bottom-1.5 left-1.5 rounded bg-neutral px-1.5 py-0.5 text-neutral-content text-note">
      {(scale * devicePixelRatio * 100).toFixed(scale < 0.1 ? 1 : 0)} %
      {standIn > 0 && playing && ` · small pictures, ${standIn} pixels wide, while it plays`}
      {point && (
        <span data-testid="pixel">
          {` · ${point.x}, ${point.y}`}
          {shown?.body && ` · ${valuesOf(shown.body)}`}
          {shown?.wrong && ` · ${shown.wrong}`}
        </span>
      )}
    </div>
  );
}

function valuesOf({ values, bits }: Schemas["PixelBody"]): string {
  const spelled = values.map((value) =>
    value === null ? "no number" : bits ? String(value) : Number(value.toPrecision(5)).toString(),
  );
  return `${spelled.join(" ")} (${bits ? `${bits} bits` : "float"})`;
}
