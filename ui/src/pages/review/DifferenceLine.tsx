import { useQuery } from "@tanstack/react-query";
import { body, client } from "../../api/client";
import { capital } from "./curves";
import { type Playhead, usePlayhead } from "./playhead";
import type { Feed } from "./useFeed";

interface Props {
  playhead: Playhead;
  feed: Feed;
  other: Feed;
}

/** How the two frames at the playhead differ, by their files' own numbers. */
export function DifferenceLine({ playhead, feed, other }: Props) {
  const { frame, playing } = usePlayhead(playhead);
  const theirs = other.frameAt(frame);
  const { data, error } = useQuery({
    queryKey: ["difference", feed.of, other.of, feed.subject.content, other.subject.content, frame, theirs],
    enabled: !playing && theirs !== null,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      body(
        client.GET("/api/reviews/{kind}/{name}/difference", {
          params: {
            path: { kind: feed.of.kind, name: feed.of.name },
            query: {
              camera_pass: feed.of.pass,
              frame,
              other_kind: other.of.kind as "take",
              other: other.of.name,
              other_pass: other.of.pass,
              other_frame: theirs ?? 0,
            },
          },
        }),
      ),
  });
  return (
    <p className="figures min-h-5 px-3 text-small" data-testid="difference-figures">
      {theirs === null
        ? "The second one has no frame here."
        : error
          ? capital((error as Error).message)
          : !data || playing
            ? ""
            : data.changed === 0
              ? `Frame ${theirs + other.subject.first} is equal to the last bit.`
              : said(data)}
    </p>
  );
}

function said({
  mean,
  most,
  changed,
  x,
  y,
  is_light,
}: {
  mean: number;
  most: number;
  changed: number;
  x: number;
  y: number;
  is_light: boolean;
}) {
  const scale = is_light ? 1 : 255;
  const of = is_light ? "in the files' numbers" : "of 255";
  const spelled = (value: number) =>
    is_light ? Number(value.toPrecision(3)).toString() : (scale * value).toFixed(value * scale < 1 ? 3 : 1);
  return `Differs in ${(100 * changed).toFixed(changed < 0.001 ? 3 : 1)} % of pixels: ${spelled(mean)} ${of} at the mean, up to ${spelled(most)} at ${x}, ${y}.`;
}
