import { useQuery } from "@tanstack/react-query";
import { CircleCheck, Download, OctagonX, Pause, Play } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Output, Schemas } from "../../api/client";
import { outputQuery } from "../../api/fileQueries";
import { AroundButton } from "../../parts/around/AroundButton";
import { LookAround } from "../../parts/around/LookAround";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { size } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";

/** A compiled file: seen playing, and held against its plan. */
export function Player() {
  const id = Number(useParams().outputId);
  const { data: output, error } = useQuery(outputQuery(id));
  if (error && !output)
    return (
      <div className="mx-auto max-w-2xl p-8">
        <ErrorAlert error={error} />
      </div>
    );
  if (!output)
    return (
      <div className="p-8">
        <PageHead title="File">Opening the file…</PageHead>
      </div>
    );
  return (
    <div className="flex h-full min-h-[560px] max-lg:h-auto max-lg:min-h-0 max-lg:flex-col">
      <div className="well flex min-w-0 flex-1 items-center justify-center p-4 max-lg:h-[60vh] max-lg:flex-none max-sm:p-2">
        {output.state === "done" ? (
          <Screen output={output} />
        ) : (
          <span className="text-white">{output.message || "This file is still being compiled."}</span>
        )}
      </div>
      <aside
        className="flex w-[360px] shrink-0 flex-col gap-3 overflow-auto border-l rule bg-base-100 p-4 max-lg:w-full max-lg:border-l-0"
        aria-label="Receipt"
      >
        <div>
          <h1 className="text-xl font-semibold">{output.title}</h1>
          <p className="quiet break-all text-small">{output.file}</p>
        </div>
        {output.trouble && <ErrorAlert error={output.trouble} />}
        {output.receipt && <Receipt receipt={output.receipt} />}
        <div className="flex flex-col gap-2">
          <a className="btn btn-primary" href={`/api/outputs/${output.id}/file?download=1`}>
            <Download size={16} aria-hidden /> Download {output.receipt ? size(output.receipt.bytes) : ""}
          </a>
          <div className="flex gap-3 text-small">
            {output.state === "done" && !/\.(zip|html|srt|vtt|wav|jpg)$/.test(output.file) && (
              <Link to={`/review/file/${output.id}`} className="link link-primary">
                Review
              </Link>
            )}
            {output.reel ? (
              <Link to={`/reels/${output.reel}`} className="link link-primary">
                Open reel
              </Link>
            ) : (
              <>
                <Link to={`/runs/${output.run_id}`} className="link link-primary">
                  Open run
                </Link>
                <Link to={`/shots/${output.shot_id}`} className="link link-primary">
                  Open shot
                </Link>
              </>
            )}
          </div>
        </div>
      </aside>
    </div>
  );
}

function Screen({ output }: { output: Output }) {
  const [error, setError] = useState("");
  const [around, setAround] = useState(false);
  const [video, setVideo] = useState<HTMLVideoElement | null>(null);
  const address = `/api/outputs/${output.id}/file`;
  if (error) return <ErrorAlert error={error} />;
  if (output.file.endsWith(".html"))
    return (
      <iframe src={address} title={output.title} sandbox="allow-scripts" className="size-full border-0" />
    );
  if (/\.(zip|mkv|mov)$/.test(output.file))
    return (
      <span className="text-white">Browsers do not play {output.file.slice(-4)} files: download it.</span>
    );
  if (/\.(gif|webp|apng|png|jpg)$/.test(output.file))
    return <img src={address} alt={output.title} className="well-checks max-h-full max-w-full" />;
  return (
    <div className="flex h-full w-full min-w-0 flex-col items-center justify-center gap-3">
      {around && output.panorama && (
        <div className="flex min-h-0 flex-1 items-center justify-center">
          <LookAround video={video} panorama={output.panorama} />
        </div>
      )}
      <video
        ref={setVideo}
        src={address}
        // Looked at from inside, it plays on unseen; a browser stops one that takes no room at all.
        className={around ? "pointer-events-none absolute size-px opacity-0" : "min-h-0 max-w-full"}
        aria-hidden={around}
        controls={!around}
        loop
        muted
        autoPlay
        playsInline
        data-testid="player"
        onError={() =>
          setError(
            `${output.file} cannot be played here: it may have been moved or removed. Compile it again.`,
          )
        }
      />
      {output.panorama && (
        <div className="flex gap-2">
          <AroundButton around={around} onAround={setAround} />
          {around && video && <PlayButton video={video} />}
        </div>
      )}
    </div>
  );
}

/** Plays and pauses a video without built-in controls. */
function PlayButton({ video }: { video: HTMLVideoElement }) {
  const [held, setHeld] = useState(video.paused);
  const onClick = () => {
    if (held) void video.play();
    else video.pause();
    setHeld(!held);
  };
  const Icon = held ? Play : Pause;
  return (
    <button type="button" className="btn btn-xs font-normal" onClick={onClick}>
      <Icon size={14} aria-hidden /> {held ? "Play" : "Hold"}
    </button>
  );
}

function Receipt({ receipt }: { receipt: Schemas["ReceiptBody"] }) {
  return (
    <section aria-label="Receipt" data-testid="receipt">
      <h2 className="mb-1 flex items-center gap-1.5 font-semibold">
        {receipt.holds ? (
          <CircleCheck size={17} className="text-primary" aria-hidden />
        ) : (
          <OctagonX size={17} className="text-error" aria-hidden />
        )}
        {receipt.holds ? "The file matches the plan" : "The file does not match the plan"}
      </h2>
      <table className="w-full text-small">
        <thead>
          <tr className="quiet text-left">
            <th className="font-normal">read back</th>
            <th className="font-normal">plan</th>
            <th className="font-normal">file</th>
          </tr>
        </thead>
        <tbody>
          {receipt.checks.map((check) => (
            <tr key={check.what} className="border-t rule align-top">
              <td className="py-1 pr-2">{check.what}</td>
              <td className="figures py-1 pr-2">{check.planned}</td>
              <td className={`figures py-1 ${check.holds ? "" : "font-semibold text-error"}`}>
                {check.found} {check.holds ? "" : "✕"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {receipt.notes.map((note) => (
        <p key={note} className="quiet mt-2 text-small leading-snug">
          {note}
        </p>
      ))}
    </section>
  );
}
