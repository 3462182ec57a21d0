import { useQuery } from "@tanstack/react-query";
import { pushQuery } from "../../api/queries";
import { CopyButton } from "../../parts/CopyButton";

/** How to send frames from your own running program. */
export function OwnProgram() {
  const { data } = useQuery(pushQuery);
  if (!data) return null;
  return (
    <details className="mt-3 text-small" data-testid="own-program">
      <summary className="cursor-pointer">or frames from your own running program</summary>
      <Line name="Python" text={data.python} />
      <Line name="Any language" text={data.curl} />
    </details>
  );
}

function Line({ name, text }: { name: string; text: string }) {
  return (
    <div className="mt-2">
      <div className="flex items-center">
        <span className="quiet flex-1">{name}</span>
        <CopyButton text={text} name={`the lines for ${name}`} label="Copy" />
      </div>
      <pre className="figures max-h-24 overflow-auto whitespace-pre-wrap break-all rounded border rule p-1.5 text-mark">
        {text}
      </pre>
    </div>
  );
}
