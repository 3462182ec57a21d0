import { Trash2 } from "lucide-react";

interface Props {
  label: string;
  title?: string;
  onClick: () => void;
}

export function RemoveButton({ label, title, onClick }: Props) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs btn-square"
      aria-label={label}
      title={title}
      onClick={onClick}
    >
      <Trash2 size={15} aria-hidden />
    </button>
  );
}
