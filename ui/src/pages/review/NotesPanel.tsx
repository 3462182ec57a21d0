import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Circle, Download, MousePointer2, MoveUpRight, RotateCw, Square, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count, when } from "../../parts/format";
import { PageMenu } from "./PageMenu";
import { type Playhead, usePlayhead } from "./playhead";
import { type Mark, type Note, notesQuery, type Of, type Subject } from "./queries";
import { Tool } from "./Transport";

const AUTHOR = "vexel-author";
const SHAPES: { shape: Mark["shape"] | null; label: string; Icon: typeof Circle }[] = [
  { shape: null, label: "No mark: move the picture", Icon: MousePointer2 },
  { shape: "dot", label: "Mark a point", Icon: Circle },
  { shape: "box", label: "Mark a box", Icon: Square },
  { shape: "arrow", label: "Draw an arrow", Icon: MoveUpRight },
];

interface Props {
  playhead: Playhead;
  of: Of;
  subject: Subject;
  notes: Note[];
  drawing: Mark["shape"] | null;
  onDrawing: (shape: Mark["shape"] | null) => void;
  mark: Mark | null;
  onMark: (mark: Mark | null) => void;
}

/** Notes on frames and places in the picture. */
export function NotesPanel({ playhead, of, subject, notes, drawing, onDrawing, mark, onMark }: Props) {
  const queries = useQueryClient();
  const { frame, from, to } = usePlayhead(playhead);
  const [text, setText] = useState("");
  const [author, setAuthor] = useState(() => localStorage.getItem(AUTHOR) ?? "");
  const [whole, setWhole] = useState(false);
  const part = from > 0 || to < subject.count - 1;
  const key = notesQuery(of).queryKey;
  const add = useMutation({
    mutationFn: () =>
      body(
        client.POST("/api/reviews/{kind}/{name}/notes", {
          params: { path: { kind: of.kind, name: of.name } },
          body: {
            camera_pass: of.pass,
            first: part && whole ? from : frame,
            last: part && whole ? to : frame,
            mark,
            text: text.trim(),
            author: author.trim(),
          },
        }),
      ),
    onSuccess: (data) => {
      queries.setQueryData(key, data);
      localStorage.setItem(AUTHOR, author.trim());
      setText("");
      onMark(null);
      onDrawing(null);
    },
  });
  return (
    <div className="flex flex-col gap-2 text-small" data-testid="notes">
      <form
        className="rounded-box border rule p-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim()) add.mutate();
        }}
      >
        <div className="mb-1.5 flex items-center gap-1">
          {SHAPES.map(({ shape, label, Icon }) => (
            <Tool key={label} label={label} pressed={drawing === shape} onClick={() => onDrawing(shape)}>
              <Icon size={14} aria-hidden />
            </Tool>
          ))}
          <span className="flex-1" />
          <span className="quiet text-note">
            {mark
              ? `with ${mark.shape === "arrow" ? "an" : "a"} ${mark.shape}`
              : drawing
                ? "Draw it in the picture"
                : ""}
          </span>
        </div>
        <textarea
          className="textarea textarea-sm min-h-16 w-full"
          aria-label="Note"
          placeholder={`A note on frame ${frame + subject.first}`}
          value={text}
          maxLength={4000}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter" && (event.ctrlKey || event.metaKey) && text.trim()) {
              event.preventDefault();
              add.mutate();
            }
          }}
        />
        {part && (
          <label className="my-1 flex items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={whole}
              onChange={(event) => setWhole(event.target.checked)}
            />
            On frames {from + subject.first} to {to + subject.first}
          </label>
        )}
        <div className="mt-1 flex items-center gap-2">
          <input
            className="input input-xs min-w-0 flex-1"
            aria-label="Your name"
            placeholder="Your name"
            maxLength={80}
            value={author}
            onChange={(event) => setAuthor(event.target.value)}
          />
          <button type="submit" className="btn btn-primary btn-xs" disabled={!text.trim() || add.isPending}>
            Add note
          </button>
        </div>
        {add.error && <ErrorAlert error={add.error} />}
      </form>
      {notes.length === 0 && <p className="quiet">No notes yet.</p>}
      <ul className="flex flex-col gap-1.5">
        {notes.map((note) => (
          <NoteLine key={note.id} note={note} of={of} subject={subject} playhead={playhead} />
        ))}
      </ul>
      <CaptureNoted of={of} subject={subject} notes={notes} />
      <PageMenu of={of} />
      {notes.length > 0 && (
        <div className="flex flex-wrap gap-1.5">
          <a className="btn btn-xs font-normal" href={`/api/reviews/${of.kind}/${of.name}/notes.csv`}>
            <Download size={14} aria-hidden /> Notes as CSV
          </a>
          <a
            className="btn btn-xs font-normal"
            title="OpenTimelineIO: a clip whose markers are the notes"
            href={`/api/reviews/${of.kind}/${of.name}/notes.otio?camera_pass=${of.pass}`}
          >
            <Download size={14} aria-hidden /> Timeline markers
          </a>
        </div>
      )}
    </div>
  );
}

/** Captures the frames of all open notes again, with the notes as the reason. */
function CaptureNoted({ of, subject, notes }: { of: Of; subject: Subject; notes: Note[] }) {
  const open = notes.filter((note) => note.is_open);
  const frames = new Set<number>();
  for (const { first, last } of open) for (let n = first; n <= last; n++) frames.add(n + subject.first);
  const again = useMutation({
    mutationFn: () =>
      body(
        client.POST("/api/runs/{run_id}/again", {
          params: { path: { run_id: Number(of.name) } },
          body: {
            error: null,
            frames: open
              .map(({ first, last }) => `${first + subject.first}-${last + subject.first}`)
              .join(","),
            camera_pass: of.pass,
            reason: open
              .map((note) => note.text)
              .join("; ")
              .slice(0, 500),
          },
        }),
      ),
  });
  if (of.kind !== "take" || open.length === 0) return null;
  return (
    <div>
      <button
        type="button"
        className="btn btn-outline btn-primary btn-xs font-normal"
        disabled={again.isPending}
        onClick={() => again.mutate()}
      >
        <RotateCw size={13} aria-hidden /> Capture {count(frames.size, "noted frame")} again
      </button>
      {again.isSuccess && (
        <p role="status" className="mt-1">
          Run {of.name} is queued.{" "}
          <Link to={`/runs/${of.name}`} className="link link-primary">
            Open run
          </Link>
        </p>
      )}
      {again.error && <ErrorAlert error={again.error} />}
    </div>
  );
}

function NoteLine({
  note,
  of,
  subject,
  playhead,
}: {
  note: Note;
  of: Of;
  subject: Subject;
  playhead: Playhead;
}) {
  const queries = useQueryClient();
  const key = notesQuery(of).queryKey;
  const path = { params: { path: { note_id: note.id } } };
  const edit = useMutation({
    mutationFn: (is_open: boolean) =>
      body(client.PATCH("/api/notes/{note_id}", { ...path, body: { text: null, is_open } })),
    onSuccess: (data) => queries.setQueryData(key, data),
  });
  const remove = useMutation({
    mutationFn: () => body(client.DELETE("/api/notes/{note_id}", path)),
    onSuccess: () => queries.invalidateQueries({ queryKey: key }),
  });
  const frames =
    note.first === note.last
      ? `frame ${note.first + subject.first}`
      : `frames ${note.first + subject.first} to ${note.last + subject.first}`;
  const shown = subject.camera_passes[note.camera_pass];
  return (
    <li className={`rounded-box border rule p-2 ${note.is_open ? "" : "opacity-60"}`}>
      <p className="whitespace-pre-wrap break-words">{note.text}</p>
      <div className="mt-1 flex items-center gap-1.5 text-note">
        <button
          type="button"
          className="link figures"
          onClick={() => {
            playhead.pause();
            playhead.set({ frame: note.first });
          }}
        >
          {frames}
        </button>
        {subject.camera_passes.length > 1 && shown && <span className="quiet">{shown}</span>}
        <span className="quiet min-w-0 flex-1 truncate">
          {[note.author, when(note.created)].filter(Boolean).join(", ")}
        </span>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={!note.is_open}
            onChange={(event) => edit.mutate(!event.target.checked)}
          />
          Done
        </label>
        <Tool label={`Delete the note on ${frames}`} onClick={() => remove.mutate()}>
          <Trash2 size={13} aria-hidden />
        </Tool>
      </div>
      {(edit.error || remove.error) && <ErrorAlert error={edit.error || remove.error} />}
    </li>
  );
}
