import { CircleCheck } from "lucide-react";
import { CloseButton } from "../CloseButton";
import { useFading } from "../hooks/useFading";

export interface ToastMessage {
  words: string;
  /** What can be done about it. */
  act?: { label: string; onAct: () => void };
}

const SHOWN_MS = 8_000;

/** What was done, said for a while, with a way on from there. */
export function Toast({ message, onClose }: { message: ToastMessage | null; onClose: () => void }) {
  const holding = useFading(message, SHOWN_MS, onClose);
  return (
    <div
      role="status"
      className="pointer-events-none fixed inset-x-0 bottom-44 z-50 max-lg:bottom-4 flex justify-center"
      {...holding}
    >
      {message && (
        <div
          className="pointer-events-auto flex items-center gap-3 rounded-box border rule bg-base-100 px-3 py-2 text-body shadow-lg"
          data-testid="toast"
        >
          <CircleCheck size={16} className="text-primary" aria-hidden />
          {message.words}
          {message.act && (
            <button
              type="button"
              className="btn btn-outline btn-primary btn-xs"
              onClick={() => {
                message.act?.onAct();
                onClose();
              }}
            >
              {message.act.label}
            </button>
          )}
          <CloseButton label="Close this message" onClick={onClose} />
        </div>
      )}
    </div>
  );
}
