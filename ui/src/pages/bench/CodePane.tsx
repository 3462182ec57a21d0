import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Redo2, Undo2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { codeQuery, printedQuery } from "../../api/benchQueries";
import { body, client, Refusal, type Schemas, type Shot } from "../../api/client";
import { sourceQuery } from "../../api/queries";
import { useForeignVersion, useOwnChange, useSourceChanged, useVersion } from "../../api/sourceChanges";
import { CloseButton } from "../../parts/CloseButton";
import { Editor } from "../../parts/Editor";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { useChange } from "../../parts/hooks/useChange";
import type { Edit } from "./edit";
import { ScriptProposal } from "./ScriptProposal";
import { Dials } from "./sheets/source/Dials";

const PAUSE_MS = 500;
const BURST_MS = 15_000;

interface Props {
  shot: Shot;
  edit: Edit;
  onClose: () => void;
}

/** The source's text beside the picture: saved after a short pause, with errors at their line. */
export function CodePane({ shot, edit, onClose }: Props) {
  const { data, error } = useQuery(codeQuery(shot.id, shot.document.source.file));
  const version = useVersion(shot.id);
  const source = useQuery(sourceQuery(shot));
  const printed = useQuery({ ...printedQuery(shot.id, version), enabled: source.isSuccess });
  const save = useSaving(shot.id, shot.document.source.file);
  const foreign = useForeignVersion(shot.id);
  // Another program has written another text.
  useChange(foreign, () => save.follow());
  const [declined, setDeclined] = useState("");
  /** Whether the proposal for a plain script replaces the editor. */
  const proposed = Boolean(data?.proposal?.mark) && declined !== shot.id;
  const wrong = source.error as { line?: number; message: string } | null;
  return (
    <section aria-label="Code" data-testid="code" className="flex min-h-0 flex-1 flex-col">
      <header className="flex items-center gap-2 border-b rule px-3 py-1.5">
        <h2 className="flex-1 truncate text-base font-semibold">
          {shot.document.source.file.split("/").pop()}
        </h2>
        <span className="quiet text-note" data-testid="code-saved">
          {data?.writable === false ? "outside the project, read-only" : save.state}
        </span>
        {data?.writable && !proposed && (
          <>
            <StepButton
              label="Undo the last change to the text"
              Icon={Undo2}
              able={data.undo}
              onClick={save.undo}
            />
            <StepButton
              label="Redo the change to the text"
              Icon={Redo2}
              able={data.redo}
              onClick={save.redo}
            />
          </>
        )}
        <CloseButton label="Close the code" onClick={onClose} />
      </header>
      <ErrorAlert
        error={error ?? save.error}
        cure={
          save.stale && (
            <>
              <button type="button" className="btn btn-xs" onClick={save.takeTheirs}>
                Show the other version
              </button>
              <button type="button" className="btn btn-xs" onClick={save.insist}>
                Overwrite
              </button>
            </>
          )
        }
      />
      {data?.proposal && (proposed || !data.proposal.mark) && (
        <ScriptProposal shot={shot} proposal={data.proposal} onDecline={() => setDeclined(shot.id)} />
      )}
      {data && !proposed && (
        <Editor
          // A text that another program changed is a new text.
          key={`${shot.document.source.file} ${shot.document.source.kind} ${save.shown}`}
          text={data.text}
          language={data.language}
          readOnly={!data.writable}
          wrong={wrong ? { line: wrong.line ?? 0, sentence: wrong.message } : null}
          onChange={save.later}
        />
      )}
      {wrong && !proposed && (
        <div className="border-t rule p-2" data-testid="code-wrong">
          <ErrorAlert error={wrong.message} />
        </div>
      )}
      {printed.data?.text && (
        <details className="max-h-32 overflow-auto border-t rule px-3 py-1.5 text-note" open>
          <summary className="cursor-pointer font-semibold">Printed</summary>
          <pre className="figures whitespace-pre-wrap">{printed.data.text}</pre>
        </details>
      )}
      <div className="max-h-[38%] overflow-auto border-t rule px-3 empty:hidden">
        <Dials shot={shot} edit={edit} />
      </div>
    </section>
  );
}

function StepButton({ label, Icon, able, onClick }: Step) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={label}
      title={label}
      disabled={!able}
      onClick={onClick}
    >
      <Icon size={14} aria-hidden />
    </button>
  );
}

interface Step {
  label: string;
  Icon: typeof Undo2;
  able: boolean;
  onClick: () => void;
}

/** Saves the newest text after a pause, one save at a time, and at once when the pane is left. */
function useSaving(shotId: string, file: string) {
  const own = useOwnChange(shotId);
  const changed = useSourceChanged(shotId);
  const queries = useQueryClient();
  const { queryKey } = codeQuery(shotId, file);
  const waiting = useRef<string | null>(null);
  const refused = useRef<string | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const turn = useRef<Promise<void>>(Promise.resolve());
  const burst = useRef({ number: 0, at: 0 });
  const [state, setState] = useState("saved");
  const [error, setError] = useState<Error | null>(null);
  /** Increases when the editor must show a text that was not typed in it. */
  const [shown, setShown] = useState(0);

  const from = () => ({
    params: { path: { shot_id: shotId }, query: { revision: queries.getQueryData(queryKey)?.revision } },
  });
  const take = (code: Schemas["CodeBody"], proposal = queries.getQueryData(queryKey)?.proposal ?? null) => {
    // While you type, the editor ignores proposals for an unfinished text.
    queries.setQueryData(queryKey, { ...code, proposal });
    setError(null);
  };
  const fail = (failure: unknown, text: string | null) => {
    refused.current = text;
    setState("not saved");
    setError(failure as Error);
  };
  const show = (code: Schemas["CodeBody"]) => {
    take(code, code.proposal);
    setState("saved");
    setShown((before) => before + 1);
  };

  const save = async () => {
    const text = waiting.current;
    if (text === null) return;
    waiting.current = null;
    try {
      const order = { ...from(), body: { text, burst: burstOf(burst.current) } };
      take(await own(() => body(client.PUT("/api/shots/{shot_id}/code", order))));
      setState(waiting.current === null ? "saved" : "typing…");
    } catch (failure) {
      fail(failure, text);
    }
  };
  /** Requests are sent one after another, each from the revision that the previous one left. */
  const inTurn = (work: () => Promise<void>) => {
    clearTimeout(timer.current);
    turn.current = turn.current.then(work);
  };
  const now = () => inTurn(save);
  const latest = useRef(now);
  latest.current = now;
  useEffect(() => {
    const leave = () => latest.current();
    addEventListener("pagehide", leave);
    return () => {
      removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
  const step = (way: "undo" | "redo") =>
    inTurn(async () => {
      await save();
      try {
        show(await own(() => body(client.POST(`/api/shots/{shot_id}/code/${way}`, from()))));
      } catch (failure) {
        fail(failure, null);
      }
    });
  const reread = async () => {
    await queries.refetchQueries({ queryKey, exact: true });
    setError(null);
  };

  return {
    state,
    error,
    shown,
    stale: error instanceof Refusal && error.stale,
    later: (text: string) => {
      waiting.current = text;
      setState("typing…");
      clearTimeout(timer.current);
      timer.current = setTimeout(() => latest.current(), PAUSE_MS);
    },
    /** Shows what another program wrote; after typing here, the next save reports the conflict. */
    follow: () =>
      inTurn(async () => {
        const before = queries.getQueryData(queryKey);
        if (!before || waiting.current !== null || refused.current !== null) return;
        await queries.refetchQueries({ queryKey, exact: true });
        if (waiting.current === null && queries.getQueryData(queryKey)?.text !== before.text)
          setShown((count) => count + 1);
      }),
    undo: () => step("undo"),
    redo: () => step("redo"),
    takeTheirs: () =>
      inTurn(async () => {
        await reread();
        setState("saved");
        setShown((before) => before + 1);
        changed();
      }),
    insist: () =>
      inTurn(async () => {
        await reread();
        waiting.current ??= refused.current;
        await save();
      }),
  };
}

/** Texts that follow each other closely are one undo. */
function burstOf(burst: { number: number; at: number }): string {
  const now = performance.now();
  if (now - burst.at > BURST_MS) burst.number += 1;
  burst.at = now;
  return `${OWN}.${burst.number}`;
}

/** Distinguishes the bursts of one page from those of another. */
const OWN = Math.random().toString(36).slice(2, 10);
