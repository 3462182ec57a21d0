import { TriangleAlert } from "lucide-react";
import type { ReactNode } from "react";

/** A sentence: what went wrong, and what to do. */
export function ErrorAlert({
  error,
  onClose,
  cure,
}: {
  error: Error | string | null;
  onClose?: () => void;
  /** A button that does something about it. */
  cure?: ReactNode;
}) {
  if (!error) return null;
  const text = typeof error === "string" ? error : error.message;
  return (
    <div
      role="alert"
      className="flex items-start gap-2 rounded-box border border-error bg-base-100 p-2.5 text-small"
    >
      <TriangleAlert size={16} className="mt-0.5 shrink-0 text-error" aria-hidden />
      <span className="min-w-0 flex-1 break-words">{text}</span>
      {cure}
      {onClose && (
        <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
          Close
        </button>
      )}
    </div>
  );
}
