import { Refusal } from "../api/client";
import { ErrorAlert } from "./ErrorAlert";
import { useFading } from "./hooks/useFading";

const SHOWN_MS = 12_000;

/** A refusal over the page, which moves nothing: it closes by itself, later while it has the focus or the pointer. */
export function Notice({
  error,
  onClose,
  onInsist,
}: {
  error: Error | null;
  onClose: () => void;
  /** Does what was refused all the same, where somebody else was quicker. */
  onInsist?: () => void;
}) {
  const holding = useFading(error, SHOWN_MS, onClose);
  if (!error) return null;
  return (
    <div
      className="fixed inset-x-0 top-12 z-50 mx-auto w-fit max-w-2xl px-4 drop-shadow-lg"
      data-testid="notice"
      {...holding}
    >
      <ErrorAlert
        error={error}
        onClose={onClose}
        cure={
          onInsist &&
          error instanceof Refusal &&
          error.stale && (
            <button type="button" className="btn btn-xs" onClick={onInsist}>
              Overwrite
            </button>
          )
        }
      />
    </div>
  );
}
