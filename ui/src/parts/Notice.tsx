import { useEffect, useRef, useState } from "react";
import { Complaint } from "./Complaint";

const SHOWN_MS = 12_000;

/** A refusal over the page, which moves nothing: it goes by itself, later if a person is at it. */
export function Notice({ error, onClose }: { error: Error | null; onClose: () => void }) {
  const [held, setHeld] = useState(false);
  const close = useRef(onClose);
  close.current = onClose;
  useEffect(() => {
    if (!error || held) return;
    const gone = setTimeout(() => close.current(), SHOWN_MS);
    return () => clearTimeout(gone);
  }, [error, held]);
  if (!error) return null;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: being at it only keeps it from going
    <div
      className="fixed inset-x-0 top-12 z-50 mx-auto w-fit max-w-2xl px-4 drop-shadow-lg"
      data-testid="notice"
      onPointerEnter={() => setHeld(true)}
      onPointerLeave={() => setHeld(false)}
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
    >
      <Complaint error={error} onClose={onClose} />
    </div>
  );
}
