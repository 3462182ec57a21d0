import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { body, client, type Shot } from "../../api/client";
import { codeQuery, printedQuery, sourceQuery } from "../../api/queries";
import { useCodeSaved, useVersion } from "../../api/version";
import { CloseButton } from "../../parts/CloseButton";
import { Complaint } from "../../parts/Complaint";
import { Editor } from "../../parts/Editor";
import type { Edit } from "./edit";
import { ScriptProposal } from "./ScriptProposal";
import { Dials } from "./sheets/Dials";

const PAUSE_MS = 500;

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
  const save = useSaving(shot.id);
  const [declined, setDeclined] = useState("");
  /** Whether the lines that would make a source of a plain script stand in the editor's place. */
  const proposed = Boolean(data?.proposal?.mark) && declined !== shot.id;
  const wrong = source.error as { line?: number; message: string } | null;
  return (
    <section aria-label="Code" data-testid="code" className="flex min-h-0 flex-1 flex-col">
      <header className="flex items-center gap-2 border-b rule px-3 py-1.5">
        <h2 className="flex-1 truncate text-base font-semibold">
          {shot.document.source.file.split("/").pop()}
        </h2>
        <span className="quiet text-[12px]" data-testid="code-saved">
          {data?.writable === false ? "lies outside the project, to be read only" : save.state}
        </span>
        <CloseButton label="Close the code" onClick={onClose} />
      </header>
      <Complaint error={error ?? save.error} />
      {data?.proposal && (proposed || !data.proposal.mark) && (
        <ScriptProposal shot={shot} proposal={data.proposal} onDecline={() => setDeclined(shot.id)} />
      )}
      {data && !proposed && (
        <Editor
          // A text that was changed here, and not by its person, is another one.
          key={`${shot.document.source.file} ${shot.document.source.kind} ${data.proposal?.mark ?? "marked"}`}
          text={data.text}
          language={data.language}
          readOnly={!data.writable}
          wrong={wrong ? { line: wrong.line ?? 0, sentence: wrong.message } : null}
          onChange={save.later}
        />
      )}
      {wrong && !proposed && (
        <div className="border-t rule p-2" data-testid="code-wrong">
          <Complaint error={wrong.message} />
        </div>
      )}
      {printed.data?.text && (
        <details className="max-h-32 overflow-auto border-t rule px-3 py-1.5 text-[12px]" open>
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

/** Saves the newest text after a pause, one save at a time, and at once when the pane is left. */
function useSaving(shotId: string) {
  const saved = useCodeSaved(shotId);
  const waiting = useRef<string | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const [state, setState] = useState("saved");
  const [error, setError] = useState<Error | null>(null);

  const now = async () => {
    clearTimeout(timer.current);
    const text = waiting.current;
    if (text === null) return;
    waiting.current = null;
    try {
      await body(
        client.PUT("/api/shots/{shot_id}/code", { params: { path: { shot_id: shotId } }, body: { text } }),
      );
      setState(waiting.current === null ? "saved" : "typing…");
      setError(null);
      saved();
    } catch (failure) {
      setState("not saved");
      setError(failure as Error);
    }
  };
  const latest = useRef(now);
  latest.current = now;
  useEffect(() => {
    const leave = () => void latest.current();
    addEventListener("pagehide", leave);
    return () => {
      removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
  const later = (text: string) => {
    waiting.current = text;
    setState("typing…");
    clearTimeout(timer.current);
    timer.current = setTimeout(() => void latest.current(), PAUSE_MS);
  };
  return { later, state, error };
}
