import { Check, Copy } from "lucide-react";
import { useEffect, useState } from "react";

/** Copies a text, and says that it did. */
export function CopyButton({
  text,
  name,
  label,
  wide,
}: {
  text: string;
  name: string;
  label?: string;
  /** As an entry of a menu. */
  wide?: boolean;
}) {
  const [copied, setCopied] = useState(false);
  useEffect(() => {
    if (!copied) return;
    const over = setTimeout(() => setCopied(false), 2000);
    return () => clearTimeout(over);
  }, [copied]);
  const Icon = copied ? Check : Copy;
  return (
    <button
      type="button"
      className={`btn btn-ghost btn-xs ${wide ? "w-full justify-start font-normal" : label ? "" : "btn-square"}`}
      aria-label={label ? `${copied ? "Copied" : label}: ${name}` : `${copied ? "Copied" : "Copy"} ${name}`}
      title={copied ? "Copied" : `Copy ${name}`}
      onClick={() => navigator.clipboard.writeText(text).then(() => setCopied(true))}
    >
      <Icon size={14} aria-hidden /> {label && (copied ? "Copied" : label)}
    </button>
  );
}
