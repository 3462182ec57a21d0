import { CircleCheck, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";

export interface Told {
  words: string;
  /** What can be done about it. */
  act?: { label: string; onAct: () => void };
}

const SHOWN_MS = 8_000;

/** What was done, said for a while, with a way on from there. */
export function Toast({ told, onClose }: { told: Told | null; onClose: () => void }) {
  const [held, setHeld] = useState(false);
  const close = useRef(onClose);
  close.current = onClose;
  useEffect(() => {
    if (!told || held) return;
    const gone = setTimeout(() => close.current(), SHOWN_MS);
    return () => clearTimeout(gone);
  }, [told, held]);
  return (
    <div
      role="status"
      className="pointer-events-none fixed inset-x-0 bottom-44 z-50 max-lg:bottom-4 flex justify-center"
      onPointerEnter={() => setHeld(true)}
      onPointerLeave={() => setHeld(false)}
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
    >
      {told && (
        <div
          className="pointer-events-auto flex items-center gap-3 rounded-box border rule bg-base-100 px-3 py-2 text-[14px] shadow-lg"
          data-testid="toast"
        >
          <CircleCheck size={16} className="text-primary" aria-hidden />
          {told.words}
          {told.act && (
            <button
              type="button"
              className="btn btn-outline btn-primary btn-xs"
              onClick={() => {
                told.act?.onAct();
                onClose();
              }}
            >
              {told.act.label}
            </button>
          )}
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label="Close this message"
            onClick={onClose}
          >
            <X size={14} aria-hidden />
          </button>
        </div>
      )}
    </div>
  );
}
