import { Trash2 } from "lucide-react";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { ErrorAlert } from "./ErrorAlert";

interface Props {
  /** The button's label and the dialog's: what is deleted. */
  label: string;
  heading: string;
  title?: string;
  /** As an entry of a menu with this text. */
  text?: string;
  disabled?: boolean;
  /** What the last button says; null while that is not known. */
  confirm: string | null;
  error: Error | null;
  onOpen?: () => void;
  onConfirm: () => void;
  children: ReactNode;
}

/** A button that deletes something after a question, which lists what goes with it. */
export function DeleteDialog(props: Props) {
  const { label, heading, title, text, disabled, confirm, error, onOpen, onConfirm, children } = props;
  const [asking, setAsking] = useState(false);
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    if (asking) dialog.current?.showModal();
  }, [asking]);
  return (
    <>
      <button
        type="button"
        className={`btn btn-ghost ${text ? "btn-xs w-full justify-start font-normal" : "btn-square btn-sm"}`}
        aria-label={label}
        title={title}
        disabled={disabled}
        onClick={() => {
          onOpen?.();
          setAsking(true);
        }}
      >
        <Trash2 size={text ? 14 : 16} aria-hidden /> {text}
      </button>
      {asking && (
        <dialog ref={dialog} className="modal" aria-label={label} onClose={() => setAsking(false)}>
          <div className="modal-box max-w-md p-4">
            <h2 className="mb-2 break-words text-base font-semibold">{heading}</h2>
            <div className="break-words text-body" data-testid="goes">
              {children}
            </div>
            <ErrorAlert error={error} />
            <div className="mt-4 flex justify-end gap-2">
              <button type="button" className="btn btn-sm" onClick={() => dialog.current?.close()}>
                Keep it
              </button>
              <button
                type="button"
                className="btn btn-error btn-sm"
                disabled={confirm === null}
                onClick={onConfirm}
              >
                {confirm ?? "Delete"}
              </button>
            </div>
          </div>
        </dialog>
      )}
    </>
  );
}
