import { CircleQuestionMark } from "lucide-react";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { CloseButton } from "../CloseButton";
import { shortcutOf, withKeys } from "./shortcuts";

const HelpText = lazy(async () => ({ default: (await import("../../pages/guides/HelpText")).HelpText }));

/** Shortcuts and guides, by the key ? anywhere. */
export function Help() {
  const dialog = useRef<HTMLDialogElement>(null);
  const [opened, setOpened] = useState(false);
  const open = () => {
    setOpened(true);
    dialog.current?.showModal();
  };
  const close = () => dialog.current?.close();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest(
        "input, textarea, select, dialog, [data-testid=editor]",
      );
      if (typing || !shortcutOf(event, "help")) return;
      event.preventDefault();
      setOpened(true);
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
        aria-label={withKeys("Help: shortcuts and guides", "help")}
        title={withKeys("Help: shortcuts and guides", "help")}
        onClick={open}
      >
        <CircleQuestionMark size={17} aria-hidden />
      </button>
      <dialog ref={dialog} className="modal" aria-label="Help">
        <div className="modal-box max-w-3xl p-5">
          <div className="mb-3 flex items-center">
            <h2 className="flex-1 text-xl font-semibold">Help</h2>
            <CloseButton label="Close help" onClick={close} />
          </div>
          {opened && (
            <Suspense>
              <HelpText onLeave={close} />
            </Suspense>
          )}
        </div>
      </dialog>
    </>
  );
}
