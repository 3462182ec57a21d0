import { useQuery } from "@tanstack/react-query";
import { body, client } from "../../api/client";
import { span } from "../../parts/format";
import type { ReelData, ReelDocument } from "./reelItems";
import type { Scale } from "./scale";

type Sound = NonNullable<ReelDocument["sound"]>[number];

/** Height of a sound's row, and of half its wave, in pixels. */
const HIGH = 34;
const HALF = 15;

interface Props {
  reel: ReelData;
  scale: Scale;
  /** Opens the settings of the sounds. */
  onOpen: () => void;
}

/** The sounds of the reel below its items: each where it is heard, with how loud it is. */
export function SoundRows({ reel, scale, onOpen }: Props) {
  return (reel.document.sound ?? []).map((sound, at) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: a sound's place is its identity
    <SoundRow key={at} {...{ reel, scale, sound, at, onOpen }} />
  ));
}

function SoundRow({ reel, scale, sound, at, onOpen }: Props & { sound: Sound; at: number }) {
  const { data, error } = useQuery({
    queryKey: ["sound peaks", reel.id, sound.file],
    staleTime: Number.POSITIVE_INFINITY,
    // A sound is shown before it is saved, and so before the server knows it.
    retry: 5,
    retryDelay: 500,
    queryFn: () =>
      body(
        client.GET("/api/reels/{reel_id}/sounds/{sound}/peaks", {
          params: { path: { reel_id: reel.id, sound: at } },
        }),
      ),
  });
  const name = sound.file.split("/").at(-1) ?? sound.file;
  const { at: begin = 0, first = 0, gain_db: gain = 0 } = sound;
  const whole = data?.seconds ?? first;
  const lasts = Math.max(
    Math.min(sound.seconds ?? Number.POSITIVE_INFINITY, whole - first, reel.frames / reel.rate - begin),
    0,
  );
  const left = scale.x(Math.min(begin * reel.rate, reel.frames));
  const width = Math.max(scale.x(Math.min((begin + lasts) * reel.rate, reel.frames)) - left, 2);
  const loud = 10 ** (gain / 20);
  const peaks = data?.peaks ?? [];
  const from = Math.floor((first / Math.max(whole, 1e-9)) * peaks.length);
  const to = Math.ceil(((first + lasts) / Math.max(whole, 1e-9)) * peaks.length);
  const heard = peaks.slice(from, to).map((peak) => seen(peak * loud));
  return (
    <button
      type="button"
      data-testid="sound-row"
      title={`${name}: ${span(lasts)} from ${span(begin)}. Opens the settings of the sounds.`}
      aria-label={`Sound ${name}, from ${span(begin)}, ${span(lasts)} long: settings`}
      className="relative mt-1 block overflow-hidden rounded border rule bg-base-100 text-left"
      style={{ marginLeft: left, width, height: HIGH }}
      onClick={onOpen}
    >
      <svg
        viewBox={`0 0 ${Math.max(heard.length, 1)} ${2 * HALF}`}
        preserveAspectRatio="none"
        className="absolute inset-0 size-full text-primary/60"
        aria-hidden="true"
      >
        <path d={waveOf(heard)} fill="currentColor" />
      </svg>
      <span className="absolute left-1.5 top-0.5 rounded bg-base-100/80 px-1 text-note">
        {name}
        {error && <span className="text-error"> · {error.message}</span>}
        {!data && !error && <span className="quiet"> · reading…</span>}
      </span>
    </button>
  );
}

/** Decibels below full level that are still seen. */
const QUIETEST = 48;

/** A level as a share of the height: by decibels, like loudness. */
const seen = (level: number) =>
  level <= 0 ? 0 : Math.min(Math.max(1 + (20 * Math.log10(level)) / QUIETEST, 0), 1);

/** The outline of a wave, mirrored at its middle. */
function waveOf(peaks: number[]): string {
  const up = peaks.map((peak, n) => `L${n} ${(HALF - peak * HALF).toFixed(1)}`);
  const down = peaks.map((peak, n) => `L${n} ${(HALF + peak * HALF).toFixed(1)}`).reverse();
  return `M0 ${HALF}${up.join("")}L${peaks.length} ${HALF}${down.join("")}Z`;
}
