import { Redo2, Undo2 } from "lucide-react";
import type { Shot } from "../../api/client";
import { TextEntry } from "../../parts/entries/TextEntry";
import { useDetails } from "../../parts/hooks/useDetails";
import type { Edit } from "./edit";

interface Props {
  shot: Shot;
  edit: Edit;
  onUndo: () => void;
  onRedo: () => void;
}

export function Title({ shot, edit, onUndo, onRedo }: Props) {
  const details = useDetails();
  const undo = shot.undo ? `Undo ${shot.undo}` : "Nothing to undo";
  const redo = shot.redo ? `Redo ${shot.redo}` : "Nothing to redo";
  return (
    <div className="flex items-center gap-2">
      <h1 className="sr-only">{shot.document.title}</h1>
      <TextEntry
        label="Title of the shot"
        value={shot.document.title}
        onCommit={(title) => edit({ title }, "the title")}
        className="-ml-1.5 min-w-0 flex-1 rounded border border-transparent bg-transparent px-1.5 text-lg font-semibold hover:border-base-300 focus:border-primary"
      />
      <div className={`join ${shot.undo || shot.redo ? "" : "invisible"}`}>
        <button
          type="button"
          className="btn join-item btn-sm"
          disabled={!shot.undo}
          title={undo}
          aria-label={undo}
          onClick={onUndo}
        >
          <Undo2 size={16} aria-hidden />
        </button>
        <button
          type="button"
          className={`btn join-item btn-sm ${shot.redo ? "" : "invisible"}`}
          disabled={!shot.redo}
          title={redo}
          aria-label={redo}
          onClick={onRedo}
        >
          <Redo2 size={16} aria-hidden />
        </button>
      </div>
      <span className="quiet text-note" data-testid="saved">
        {shot.unsaved ? "saving…" : details ? `saved, revision ${shot.revision}` : "saved"}
      </span>
    </div>
  );
}
