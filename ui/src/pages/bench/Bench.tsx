import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Shot } from "../../api/client";
import { shotQuery, useEdits } from "../../api/edits";
import { runsOfShotQuery, sourceQuery } from "../../api/queries";
import { useFollowedSource, useSourceChanged } from "../../api/sourceChanges";
import { sourceKind } from "../../api/vocabulary";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { useChange } from "../../parts/hooks/useChange";
import { useFrameKeys } from "../../parts/hooks/useFrameKeys";
import { Notice } from "../../parts/Notice";
import { PageHead } from "../../parts/PageHead";
import { Toast, type ToastMessage } from "../../parts/shell/Toast";
import { Brief, type Topic } from "./Brief";
import { useFilming } from "./camera/useFilming";
import { CaptureArea } from "./capture/CaptureArea";
import { useProofs } from "./capture/useProofs";
import { BenchContext, type BenchValue } from "./context";
import type { Edit } from "./edit";
import { FilmArea } from "./FilmArea";
import { LoopSeam } from "./LoopSeam";
import type { Lane } from "./lanes";
import { PreflightPanel } from "./PreflightPanel";
import { PlayInBar } from "./play/PlayInBar";
import { rateOf } from "./play/rate";
import { type Stretch, usePlay } from "./play/usePlay";
import { usePlayIn } from "./play/usePlayIn";
import { Sheet } from "./Sheet";
import { Strip } from "./strip/Strip";
import { TimingLine } from "./TimingLine";
import { Title } from "./Title";

// The editor is as large as all else together, so it comes when it is wanted.
const CodePane = lazy(async () => ({ default: (await import("./CodePane")).CodePane }));

/** One shot: its brief, its figures, its picture and its frames. */
export function Bench() {
  const { shotId = "" } = useParams();
  const { data: shot, error } = useQuery(shotQuery(shotId));
  const { data: runs } = useQuery(runsOfShotQuery(shotId));
  const edits = useEdits(shotId);
  const wanted = useSearchParams()[0].get("topic");
  const [topic, setTopic] = useState<Topic | null>(wanted === "sweep" ? wanted : null);
  const [at, setAt] = useState(0);
  const frames = shot?.timing.frames ?? 1;
  const frame = Math.min(at, frames - 1);

  const [loop, setLoop] = useState(true);
  const [lanesOpen, setLanesOpen] = useState(false);
  const [chosenStretch, setStretch] = useState<Stretch | null>(null);
  const [draft, setDraft] = useState<Lane[] | null>(null);
  const stretch = useMemo(() => played(chosenStretch, frames), [chosenStretch, frames]);
  const rate = shot ? rateOf(shot) : 24;
  const playing = usePlay(rate, stretch, loop, frame, setAt);
  const playIn = usePlayIn(shot, rate, playing, edits.play);
  const [message, setMessage] = useState<ToastMessage | null>(null);
  const filming = useFilming(shot, frame, edits, setAt, (name) =>
    setMessage({ words: `${name} saved`, act: { label: "Show the views", onAct: () => setTopic("camera") } }),
  );
  useCodeWhenBroken(shot, setTopic);
  const proofs = useProofs(shot, frame, filming.cameraPass);
  const [trouble, setTrouble] = useState<Error | null>(null);
  useFollowedSource(shot?.id ?? "", () =>
    setMessage({
      words: `${shot?.document.source.file.split("/").pop()} changed on disk: the pictures follow`,
    }),
  );

  useFrameKeys({
    frames,
    step: setAt,
    on: {
      play: playing.toggle,
      undo: edits.undo,
      redo: edits.redo,
      loop: () => setLoop(!loop),
      playFrom: () => setStretch({ from: frame, to: Math.max(stretch.to, frame) }),
      playTo: () => setStretch({ from: Math.min(stretch.from, frame), to: frame }),
      playAll: () => setStretch(null),
      lanes: () => setLanesOpen(!lanesOpen),
      saveView: filming.saveView,
      compare: filming.flip,
      drawing: () => filming.setDrawing(!filming.drawing),
    },
  });
  // What was dragged is saved, or was refused.
  useChange(`${shot?.revision} ${edits.error?.message}`, () => setDraft(null));
  useEffect(() => {
    document.title = shot ? `${shot.document.title} · Vexel` : "Vexel";
  }, [shot]);

  if (error && !shot) {
    return (
      <div className="mx-auto max-w-2xl p-8">
        <ErrorAlert error={error} />
        <Link to="/" className="btn btn-sm mt-3">
          Back to the shots
        </Link>
      </div>
    );
  }
  if (!shot)
    return (
      <div className="p-8">
        <PageHead title="Bench">Opening the shot…</PageHead>
      </div>
    );

  const edit: Edit = edits.edit;
  /** Closes what a word of the brief opened; the focus goes back to that word. */
  const close = (of: Topic) => {
    setTopic(null);
    document.querySelector<HTMLElement>(`[data-topic=${of === "code" ? "source" : of}]`)?.focus();
  };
  const bench: BenchValue = {
    shot,
    edit,
    frame,
    camera: filming.camera,
    pathFigures: filming.pathFigures,
    onTerm: edits.term,
    onPlayIn: playIn.begin,
    onStagger: edits.stagger,
    onRig: (kind) => edits.rig({ kind, frame, camera: filming.camera }),
    onCamera: filming.setCamera,
    onAddCamera: filming.addCamera,
    onSaveView: filming.saveView,
    onPath: edits.importPath,
    onPick: () => filming.setTaking("centre"),
    onFrame: setAt,
    onTopic: setTopic,
  };
  return (
    <BenchContext value={bench}>
      <div className="flex h-full min-h-[640px] flex-col max-lg:h-auto max-lg:min-h-0">
        <div className="border-b rule bg-base-100 px-4 pb-2 pt-2.5">
          <Title shot={shot} edit={edit} onUndo={edits.undo} onRedo={edits.redo} />
          <Brief shot={shot} topic={topic} onTopic={setTopic} />
          <div className="mt-1.5 flex items-start gap-3 max-lg:flex-wrap">
            <TimingLine shot={shot} edit={edit} onTerm={edits.term} />
            <CaptureArea
              {...{ shot, frame, edit, trouble, proofs }}
              onVariants={() => setTopic("sweep")}
              errorIn={topic === "code" ? "in the code" : "in the viewfinder"}
            />
          </div>
        </div>
        <Notice error={edits.error} onClose={edits.dismiss} onInsist={edits.insist} />
        <Toast message={message} onClose={() => setMessage(null)} />
        <div className="flex min-h-0 flex-1 max-lg:flex-col">
          {/* With a sheet and the drawing open, the picture keeps its size in place of the ends. */}
          {!(topic && filming.drawing) && <LoopSeam shot={shot} frame={frame} onFrame={setAt} />}
          <FilmArea
            {...{ shot, frame, edit, filming }}
            inCode={topic === "code"}
            onFrame={setAt}
            onTrouble={setTrouble}
            onSaveFrame={() => proofs.prove(true)}
            preview={playIn.patch ?? (draft ? { lanes: draft } : undefined)}
            film={playing.going && playIn.thing === null ? stretch : null}
            onAim={playIn.thing?.camera ? playIn.setAim : undefined}
          />
          <aside
            className={`flex shrink-0 flex-col border-l rule bg-base-100 max-lg:w-full max-lg:border-l-0 max-lg:border-t ${topic === "code" ? "w-[520px] max-lg:h-[80vh]" : "w-[308px]"}`}
            aria-label="Details"
          >
            {topic === "code" ? (
              <Suspense fallback={<p className="quiet p-3">Opening the editor…</p>}>
                <CodePane shot={shot} edit={edit} onClose={() => close("code")} />
              </Suspense>
            ) : topic ? (
              <Sheet topic={topic} onClose={() => close(topic)} />
            ) : (
              <PreflightPanel shot={shot} edit={edit} runs={runs?.runs.filter((one) => !one.variant) ?? []} />
            )}
          </aside>
        </div>
        {playIn.thing && <PlayInBar playIn={playIn} />}
        <Strip
          {...{ shot, frame, edit, playing, loop, draft }}
          onFrame={setAt}
          run={runs?.runs.find((one) => !one.variant)}
          onLoop={setLoop}
          stretch={chosenStretch && stretch}
          onStretch={setStretch}
          open={lanesOpen && playIn.thing === null}
          onOpen={setLanesOpen}
          onDraft={setDraft}
          pathFigures={filming.pathFigures}
        />
      </div>
    </BenchContext>
  );
}

/** Opens the code of a shot that comes with an error in it, once; and requests pictures again when that is fixed. */
function useCodeWhenBroken(shot: Shot | undefined, onTopic: (topic: Topic) => void) {
  const looked = useRef("");
  const broken = useRef(false);
  const fixed = useSourceChanged(shot?.id ?? "");
  const { error, isSuccess } = useQuery({
    ...sourceQuery(shot ?? { id: "", revision: 0 }),
    enabled: shot !== undefined,
  });
  useEffect(() => {
    if (!shot || (!error && !isSuccess)) return;
    if (looked.current !== shot.id && error && sourceKind(shot.document.source.kind)?.own_text)
      onTopic("code");
    if (looked.current === shot.id && broken.current && !error) fixed();
    looked.current = shot.id;
    broken.current = error !== null;
  }, [shot, error, isSuccess, onTopic, fixed]);
}

/** The stretch that is played: the one chosen, as far as there are frames, or all. */
function played(chosen: Stretch | null, frames: number): Stretch {
  const to = Math.min(chosen?.to ?? frames - 1, frames - 1);
  return { from: Math.min(chosen?.from ?? 0, to), to };
}
