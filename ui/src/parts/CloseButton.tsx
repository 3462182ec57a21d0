import { X } from "lucide-react";

/** Closes what stands around it. */
export function CloseButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label={label} onClick={onClick}>
      <X size={17} aria-hidden />
    </button>
  );
}
