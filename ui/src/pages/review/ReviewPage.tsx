import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { useChange } from "../../parts/hooks/useChange";
import { useFrameKeys } from "../../parts/hooks/useFrameKeys";
import { PageHead } from "../../parts/PageHead";
import { TabList } from "../../parts/TabList";
import { ChangesPanel } from "./ChangesPanel";
import { Channels } from "./Channels";
import { Compare, type InStep } from "./Compare";
import { CurveStrip } from "./CurveStrip";
import type { CurveName } from "./curves";
import { DifferenceLine } from "./DifferenceLine";
import { FindingsPanel } from "./FindingsPanel";
import { LookBar } from "./LookBar";
import { NotesPanel } from "./NotesPanel";
import { Playhead } from "./playhead";
import {
  figuresQuery,
  type InPair,
  type Mark,
  measure,
  measurePair,
  notesQuery,
  type Of,
  pairQuery,
  type Subject,
  stopMeasuring,
  subjectQuery,
} from "./queries";
import { SheetMenu } from "./SheetMenu";
import { Transport } from "./Transport";
import { type Feed, isThere, useAhead, useFeed } from "./useFeed";
import { FIRST_LOOK, type Look } from "./view";
import { Well } from "./Well";

const SAME = (frame: number) => frame;

/** One take, file or reel, looked at frame by frame; with another one beside it. */
export function ReviewPage() {
  const { kind = "", name = "" } = useParams();
  const [search] = useSearchParams();
  const of = { kind, name, pass: Number(search.get("pass") ?? 0) || 0 };
  const { data: subject, error } = useQuery(subjectQuery(of));
  const kept = useRef<Subject>(undefined);
  if (subject) kept.current = subject;
  // Another camera or pass of the same take is shown at the same instant.
  const shown =
    subject ?? (kept.current?.kind === kind && kept.current.name === name ? kept.current : undefined);
  if (error && !subject)
    return (
      <div className="mx-auto max-w-2xl p-8">
        <ErrorAlert error={error} />
        <Link to="/review" className="link link-primary">
          All takes, files and reels
        </Link>
      </div>
    );
  if (!shown)
    return (
      <div className="p-8">
        <PageHead title="Review">Opening…</PageHead>
      </div>
    );
  return <Reviewed key={`${kind} ${name}`} of={{ ...of, pass: shown.camera_pass }} subject={shown} />;
}

function Reviewed({ of, subject }: { of: Of; subject: Subject }) {
  const [search, setSearch] = useSearchParams();
  const queries = useQueryClient();
  const [look, setLook] = useState<Look>(FIRST_LOOK);
  const onLook = useCallback((change: Partial<Look>) => setLook((now) => ({ ...now, ...change })), []);
  const second = useSecond(search);
  const { data: secondSubject, error: secondError } = useQuery({
    ...subjectQuery(second ?? of),
    enabled: second !== null,
  });
  const offset = Number(search.get("offset") ?? 0) || 0;
  const sameRate = !secondSubject || secondSubject.fps === subject.fps;
  const inStep: InStep = (search.get("by") as InStep | null) ?? (sameRate ? "frame" : "time");
  const other = second ? secondSubject : undefined;
  const otherFrame = useMemo(() => {
    if (!other) return SAME;
    return (frame: number) => {
      // The frame of the second one that is shown at the instant of the first one's.
      const at = inStep === "time" ? Math.floor((frame / subject.fps) * other.fps + 1e-6) : frame;
      const moved = at + offset;
      return moved >= 0 && moved < other.count ? moved : null;
    };
  }, [other, inStep, offset, subject.fps]);

  const feed = useFeed(of, subject, look.stops, SAME);
  const otherFeed = useFeed(second ?? of, other, look.stops, otherFrame);
  const feeds = useRef<(Feed | null)[]>([]);
  feeds.current = [feed, otherFeed];
  const playhead = useMemo(
    () =>
      new Playhead(subject.count, subject.fps, (frame, standIn) =>
        feeds.current.every((one) => one === null || isThere(one, frame, standIn)),
      ),
    [subject.count, subject.fps],
  );
  useEffect(() => () => playhead.pause(), [playhead]);
  useAhead(playhead, feed, otherFeed);

  const set = (values: Record<string, string | null>) =>
    setSearch(
      (now) => {
        const next = new URLSearchParams(now);
        for (const [name, value] of Object.entries(values))
          if (value === null) next.delete(name);
          else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const { data: figures } = useQuery({ ...figuresQuery(of), enabled: !subject.is_data });
  const { data: otherFigures } = useQuery({ ...figuresQuery(second ?? of), enabled: second !== null });
  useMeasured(of, subject, figures?.state);
  useMeasured(second ?? of, other, second ? otherFigures?.state : undefined);
  const inPair: InPair = { one: of, other: second ?? of, by: inStep, offset };
  const { data: pair } = useQuery({ ...pairQuery(inPair), enabled: second !== null && other !== undefined });
  const askPair = () => void queries.invalidateQueries({ queryKey: pairQuery(inPair).queryKey });
  // What is found between both follows from the figures of each.
  useChange(`${figures?.state} ${otherFigures?.state}`, askPair);
  const { data: notes } = useQuery(notesQuery(of));
  const [drawing, setDrawing] = useState<Mark["shape"] | null>(null);
  const [mark, setMark] = useState<Mark | null>(null);
  const [tab, setTab] = useState(0);
  const otherValues = useMemo(() => {
    const curves = second ? otherFigures?.curves : null;
    if (!curves) return null;
    return (name: CurveName) =>
      Array.from({ length: subject.count }, (_, frame) => {
        const at = otherFrame(frame);
        return at === null ? Number.NaN : curves[name][at];
      });
  }, [second, otherFigures, otherFrame, subject.count]);
  useFrameKeys({
    frames: subject.count,
    step: (to) => {
      playhead.pause();
      playhead.set({ frame: to(playhead.now().frame) });
    },
    on: {
      play: () => (playhead.now().playing ? playhead.pause() : playhead.play(1)),
      loop: () => playhead.set({ after: playhead.now().after === "loop" ? "stop" : "loop" }),
      playFrom: () =>
        playhead.set({ from: playhead.now().frame, to: Math.max(playhead.now().to, playhead.now().frame) }),
      playTo: () =>
        playhead.set({ to: playhead.now().frame, from: Math.min(playhead.now().from, playhead.now().frame) }),
      playAll: () => playhead.set({ from: 0, to: subject.count - 1 }),
      otherProof: () => onLook({ mode: "flip", flipped: !look.flipped }),
    },
  });
  const refresh = () => void queries.invalidateQueries({ queryKey: figuresQuery(of).queryKey });
  const shownNotes = notes?.notes.filter((note) => note.camera_pass === of.pass) ?? [];
  const findings =
    (figures?.findings.length ?? 0) +
    ((second && pair?.findings.length) || 0) +
    (subject.missing.length ? 1 : 0);
  return (
    <div className="flex h-full min-h-[560px] max-lg:h-auto max-lg:flex-col">
      <Channels />
      <div className="flex min-w-0 flex-1 flex-col max-lg:flex-none">
        <header className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b rule bg-base-100 px-3 py-1.5">
          <h1 className="text-lg font-semibold">{subject.title}</h1>
          <span className="quiet figures text-small">
            {subject.kind} {subject.kind !== "reel" && subject.name} · {subject.width} × {subject.height} ·{" "}
            {subject.kind === "file" ||
            (subject.kind === "import" &&
              subject.camera_passes.length === 0 &&
              subject.missing.length === 0 &&
              subject.bits === 8)
              ? "decoded to 8 bits"
              : subject.bits
                ? `${subject.bits} bits`
                : "half floats"}
          </span>
          <OpenLink subject={subject} />
          <span className="flex-1" />
          <SheetMenu
            of={of}
            subject={subject}
            noted={new Set(shownNotes.map((note) => note.first)).size}
            found={new Set(figures?.findings.flatMap((one) => one.frames)).size}
          />
          <Compare
            subject={subject}
            second={second}
            secondSubject={other}
            onSecond={(next) =>
              set({ with: next ? `${next.kind}/${next.name}/${next.pass}` : null, by: null, offset: null })
            }
            offset={offset}
            onOffset={(next) => set({ offset: next ? String(next) : null })}
            inStep={inStep}
            onInStep={(next) => set({ by: next })}
          />
        </header>
        {second && secondError && <ErrorAlert error={secondError} />}
        {feed && (
          <Well
            playhead={playhead}
            feed={feed}
            other={otherFeed}
            look={look}
            onLook={onLook}
            notes={shownNotes}
            drawing={drawing}
            onDrawn={(next) => {
              setMark(next);
              setDrawing(null);
              setTab(1);
            }}
          />
        )}
        <LookBar
          subject={subject}
          pass={of.pass}
          onPass={(pass) => set({ pass: pass ? String(pass) : null })}
          look={look}
          onLook={onLook}
          two={otherFeed !== null}
        />
        <div className="px-3 pb-1">
          <Transport playhead={playhead} of={of} subject={subject} />
        </div>
        {feed && otherFeed && <DifferenceLine playhead={playhead} feed={feed} other={otherFeed} />}
        <CurveStrip
          playhead={playhead}
          subject={subject}
          figures={figures}
          otherValues={otherValues}
          otherTitle={other ? `${other.kind} ${other.name}` : ""}
          pair={second ? pair : undefined}
          onMeasurePair={() => void measurePair(inPair).then(askPair, askPair)}
          notes={shownNotes}
          onMeasure={() => void measure(of).then(refresh, refresh)}
          onStop={() => void stopMeasuring(of).then(refresh, refresh)}
        />
      </div>
      <aside
        className="flex w-80 shrink-0 flex-col gap-2 overflow-auto border-l rule bg-base-100 p-3 max-lg:w-full max-lg:border-l-0"
        aria-label="Findings, notes and settings"
      >
        <div className="flex gap-1">
          <TabList
            label="What is shown"
            tabs={[
              `Findings${findings ? ` (${findings})` : ""}`,
              `Notes${shownNotes.length ? ` (${shownNotes.length})` : ""}`,
              "Settings",
            ]}
            chosen={tab}
            panel="review-panel"
            onChoose={setTab}
          />
        </div>
        <div id="review-panel" role="tabpanel" aria-labelledby={`review-panel-${tab}`}>
          {tab === 0 && (
            <FindingsPanel
              playhead={playhead}
              subject={subject}
              figures={figures}
              between={(second && pair?.findings) || []}
            />
          )}
          {tab === 1 && (
            <NotesPanel
              playhead={playhead}
              of={of}
              subject={subject}
              notes={shownNotes}
              drawing={drawing}
              onDrawing={setDrawing}
              mark={mark}
              onMark={setMark}
            />
          )}
          {tab === 2 && <ChangesPanel of={of} subject={subject} other={second} />}
        </div>
      </aside>
    </div>
  );
}

const PAGES = { take: "runs", file: "files", reel: "reels" };

function OpenLink({ subject: { kind, name } }: { subject: Subject }) {
  if (kind === "import") return null;
  return (
    <Link to={`/${PAGES[kind]}/${name}`} className="link link-primary text-small">
      Open {kind === "take" ? "run" : kind}
    </Link>
  );
}

/** What it is compared with, from the address. */
function useSecond(search: URLSearchParams): Of | null {
  const text = search.get("with") ?? "";
  return useMemo(() => {
    const [kind, name, pass] = text.split("/");
    return kind && name ? { kind, name, pass: Number(pass) || 0 } : null;
  }, [text]);
}

/** Measures what was not measured, once, when it is opened. */
function useMeasured(of: Of, subject: Subject | undefined, state: string | undefined) {
  const queries = useQueryClient();
  const { kind, name, pass } = of;
  const canMeasure = subject !== undefined && !subject.is_data && subject.first === 0;
  useEffect(() => {
    if (state !== "none" || !canMeasure) return;
    const key = figuresQuery({ kind, name, pass }).queryKey;
    measure({ kind, name, pass }).then(
      (figures) => queries.setQueryData(key, figures),
      () => queries.invalidateQueries({ queryKey: key }),
    );
  }, [kind, name, pass, state, canMeasure, queries]);
}
