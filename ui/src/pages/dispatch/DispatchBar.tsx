import { useQuery } from "@tanstack/react-query";
import { Send } from "lucide-react";
import { outputsQuery } from "../../api/fileQueries";
import { CloseButton } from "../../parts/CloseButton";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { useShortcut } from "../../parts/hooks/useShortcut";
import { withKeys } from "../../parts/shell/shortcuts";
import { OutputLine } from "../runs/OutputLine";
import { active } from "../runs/words";
import type { Dispatch } from "./useDispatch";

/** What is chosen, the button that makes it, and what came of it. It stays in view. */
export function DispatchBar({ dispatch }: { dispatch: Dispatch }) {
  const { files, order, names } = dispatch;
  const { data } = useQuery(outputsQuery);
  const shown = (data?.outputs ?? [])
    .filter((file) => active(file) || dispatch.ordered.includes(file.id))
    .reverse();
  const can = files > 0 && !order.isPending && !names.isError;
  useShortcut("make", () => can && order.mutate());
  const making = shown.filter(active).length;
  return (
    <section
      aria-label="Order"
      className="max-h-[45%] shrink-0 overflow-auto border-t rule bg-base-100 px-6 py-2"
      data-testid="dispatch-bar"
    >
      <ErrorAlert error={order.error} onClose={() => order.reset()} />
      {shown.length > 0 && (
        <div className="mb-1 flex items-start gap-2">
          <div className="min-w-0 flex-1">
            <p className="quiet text-note" role="status">
              {making > 0
                ? `Making ${count(making, "file")}`
                : `${count(shown.length, "file")} from the last order`}
            </p>
            <ul className="max-h-44 overflow-auto">
              {shown.map((file) => (
                <OutputLine key={file.id} output={file} brief />
              ))}
            </ul>
          </div>
          {making === 0 && (
            <CloseButton label="Close the last order" onClick={() => dispatch.setOrdered([])} />
          )}
        </div>
      )}
      <div className="flex items-center gap-4">
        <Names dispatch={dispatch} />
        <button
          type="button"
          className="btn btn-primary shrink-0"
          disabled={!can}
          title={withKeys("Make the files", "make")}
          aria-keyshortcuts="Control+Enter"
          onClick={() => order.mutate()}
          data-testid="dispatch"
        >
          <Send size={16} aria-hidden />
          {files === 0 ? "Choose recipes" : `Make ${count(files, "file")}`}
        </button>
      </div>
    </section>
  );
}

/** The names that the chosen files will get, and their folder. */
function Names({ dispatch }: { dispatch: Dispatch }) {
  const { names, files } = dispatch;
  if (files === 0)
    return (
      <p className="quiet min-w-0 flex-1 text-small">
        Tick one or more recipes. Their files are named here before you make them.
      </p>
    );
  if (names.error)
    return (
      <div className="min-w-0 flex-1">
        <ErrorAlert error={names.error} />
      </div>
    );
  const list = names.data?.flatMap((one) => one.names) ?? [];
  return (
    <div className="min-w-0 flex-1 text-small" data-testid="file-names">
      <ul className="figures max-h-16 overflow-auto">
        {list.map((name) => (
          <li key={name} className="truncate" title={name}>
            {name}
          </li>
        ))}
      </ul>
      {names.data && (
        <p className="quiet truncate text-note" title={names.data[0]?.folder}>
          in {names.data[0]?.folder}
        </p>
      )}
    </div>
  );
}
