import { CircleQuestionMark } from "lucide-react";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { GUIDES } from "../places/guides/guides";
import { Shortcuts } from "../places/guides/Shortcuts";
import { CloseButton } from "./CloseButton";

/** Shortcuts and guides, by the key ? anywhere. */
export function Help() {
  const dialog = useRef<HTMLDialogElement>(null);
  const close = () => dialog.current?.close();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest(
        "input, textarea, select, dialog, [data-testid=editor]",
      );
      if (event.key !== "?" || typing || event.ctrlKey || event.metaKey) return;
      event.preventDefault();
      dialog.current?.showModal();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <button
        type="button"
        className="btn btn-ghost btn-sm btn-square"
        aria-label="Help: shortcuts and guides (?)"
        title="Help: shortcuts and guides (?)"
        onClick={() => dialog.current?.showModal()}
      >
        <CircleQuestionMark size={17} aria-hidden />
      </button>
      <dialog ref={dialog} className="modal" aria-label="Help">
        <div className="modal-box max-w-3xl p-5">
          <div className="mb-3 flex items-center">
            <h2 className="flex-1 text-xl font-semibold">Help</h2>
            <CloseButton label="Close help" onClick={close} />
          </div>
          <nav aria-label="Guides" className="mb-4 flex flex-wrap gap-2">
            {GUIDES.map((guide) => (
              <Link
                key={guide.name}
                to={`/guides/${guide.name}`}
                className="btn btn-sm font-normal"
                onClick={close}
              >
                {guide.title}
              </Link>
            ))}
          </nav>
          <Shortcuts />
        </div>
      </dialog>
    </>
  );
}
