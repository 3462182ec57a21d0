import { Check, Copy } from "lucide-react";
import { useEffect, useState } from "react";

/** Copies a text, and says that it did. */
export function CopyButton({ text, name, label }: { text: string; name: string; label?: string }) {
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
      className={`btn btn-ghost btn-xs ${label ? "" : "btn-square"}`}
      aria-label={copied ? `Copied ${name}` : `Copy ${name}`}
      title={copied ? "Copied" : `Copy ${name}`}
      onClick={() => navigator.clipboard.writeText(text).then(() => setCopied(true))}
    >
      <Icon size={14} aria-hidden /> {label && (copied ? "Copied" : label)}
    </button>
  );
}
