import { Download } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Schemas, Shot } from "../../api/client";
import { span } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { pictureOf } from "./pictureQueue";
import { SheetMenu } from "./SheetMenu";

const KINDS = { png: "a PNG", pdf: "a PDF", html: "a page" } as const;

/** As the exported sheet asks for them: the server keeps the pictures, and then only arranges them. */
const QUERY = "width=320&height=320&samples=4";

interface Props {
  shot: Shot;
  variants: Schemas["VariantBody"][];
  onlyMarked: boolean;
}

interface Stand {
  done: number;
  left: number | null;
}

/** The contact sheet as a file: its pictures are drawn first, with progress, and can be stopped and continued. */
export function ExportSheet({ shot, variants, onlyMarked }: Props) {
  const [stand, setStand] = useState<Stand | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const make = async (kind: keyof typeof KINDS) => {
    const asked = new AbortController();
    stop.current = asked;
    setError(null);
    const begun = Date.now();
    let done = 0;
    const told = () =>
      setStand({
        done,
        left: done ? ((Date.now() - begun) / 1000 / done) * (variants.length - done) : null,
      });
    told();
    const frame = shot.document.sweep?.frame ?? 0;
    try {
      await Promise.all(
        variants.map(async ({ number }) => {
          const url = `/api/shots/${shot.id}/variants/${number}/view?frame=${frame}&${QUERY}`;
          URL.revokeObjectURL(await pictureOf(url, asked.signal));
          done += 1;
          told();
        }),
      );
      const path = `/api/shots/${shot.id}/sweep/sheet.${kind}${onlyMarked ? "?favourites=1" : ""}`;
      const sheet = await pictureOf(path, asked.signal);
      save(sheet, `${shot.id}.sheet.${kind}`);
    } catch (failed) {
      if (!asked.signal.aborted) setError(failed as Error);
      asked.abort();
    }
    setStand(null);
  };
  if (stand)
    return (
      <div className="flex items-center gap-2 text-small" data-testid="sheet-progress">
        <progress
          className="progress progress-primary w-24"
          value={stand.done}
          max={variants.length}
          aria-label="Drawing the contact sheet"
        />
        <span className="figures">
          {stand.done} of {variants.length}
          {stand.left !== null && `, ${span(stand.left)} left`}
        </span>
        <button type="button" className="btn btn-xs" onClick={() => stop.current?.abort()}>
          Stop
        </button>
      </div>
    );
  return (
    <>
      <SheetMenu label="Export" icon={<Download size={16} aria-hidden />} off={variants.length === 0}>
        {(Object.keys(KINDS) as (keyof typeof KINDS)[]).map((kind) => (
          <li key={kind}>
            <button type="button" onClick={() => void make(kind)}>
              Contact sheet as {KINDS[kind]}
            </button>
          </li>
        ))}
      </SheetMenu>
      <Notice error={error} onClose={() => setError(null)} />
    </>
  );
}

function save(url: string, name: string) {
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  // The browser has taken what it saves by then.
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
