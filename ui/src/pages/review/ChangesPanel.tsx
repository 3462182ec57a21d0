import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { body, client, type Schemas } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { capital } from "./curves";
import type { Of, Subject } from "./queries";

interface Props {
  of: Of;
  subject: Subject;
  /** The take that it is compared with. */
  other: Of | null;
}

/** The settings that differ: from those of another take, and from the current shot. */
export function ChangesPanel({ of, subject, other }: Props) {
  if (of.kind !== "take")
    return <p className="quiet text-small">Settings are compared between takes: open a take.</p>;
  return (
    <div className="flex flex-col gap-4 text-small" data-testid="changes">
      {other?.kind === "take" && <Changes of={of} subject={subject} other={other.name} />}
      <Changes of={of} subject={subject} other="" />
    </div>
  );
}

function Changes({ of, subject, other }: { of: Of; subject: Subject; other: string }) {
  const queries = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ["changes", of.name, other],
    retry: false,
    queryFn: () =>
      body(
        client.GET("/api/runs/{run_id}/changes", {
          params: { path: { run_id: Number(of.name) }, query: { other: Number(other || 0) } },
        }),
      ),
  });
  const use = useMutation({
    mutationFn: (patch: Schemas["ChangesBody"]["patch"]) =>
      body(
        client.PATCH("/api/shots/{shot_id}", {
          params: { path: { shot_id: subject.shot_id }, query: {} },
          body: { patch, what: `settings of take ${of.name}`, burst: "" },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["changes"] });
      void queries.invalidateQueries({ queryKey: ["shot", subject.shot_id] });
    },
  });
  if (error) return <ErrorAlert error={error} />;
  if (!data) return <p className="quiet">Comparing settings…</p>;
  const same = data.changes.length + data.lines.length + data.notes.length === 0;
  const canUse = Object.keys(data.patch).length > 0;
  return (
    <section aria-label={`${data.one} against ${data.other}`}>
      <h3 className="mb-1 font-semibold">
        {capital(data.one)} against {data.other}
      </h3>
      {same && <p className="quiet">All settings are equal.</p>}
      {data.changes.length > 0 && (
        <table className="w-full">
          <tbody>
            {data.changes.map((change) => (
              <tr key={change.path} className="border-t rule align-top" title={change.path}>
                <th scope="row" className="py-1 pr-2 text-left font-normal">
                  {change.label}
                </th>
                <td className="figures py-1 pr-2 break-all">{change.one || "none"}</td>
                <td className="figures quiet py-1 break-all">{change.other || "none"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data.lines.map((one) => (
        <p key={`${one.file} ${one.one[0]} ${one.other[0]}`} className="mt-1 figures">
          {one.file} {linesOf(one.one)} against {linesOf(one.other)}
        </p>
      ))}
      {data.notes.map((note) => (
        <p key={note} className="mt-1">
          {note}.
        </p>
      ))}
      {!other && canUse && (
        <button
          type="button"
          className="btn btn-outline btn-primary btn-xs mt-2"
          disabled={use.isPending}
          onClick={() => use.mutate(data.patch)}
        >
          Use these settings in the shot
        </button>
      )}
      {!other && !canUse && data.lines.length > 0 && (
        <p className="quiet mt-1">The shot has these settings; its source has changed.</p>
      )}
      {use.isSuccess && (
        <p className="mt-1" role="status">
          {count(data.changes.length, "setting")} differ now.{" "}
          <Link to={`/shots/${subject.shot_id}`} className="link link-primary">
            Open shot
          </Link>
        </p>
      )}
      {use.error && <ErrorAlert error={use.error} />}
    </section>
  );
}

function linesOf(lines: number[]): string {
  if (lines.length === 0) return "nothing";
  return lines.length === 1 ? `line ${lines[0]}` : `lines ${lines[0]} to ${lines.at(-1)}`;
}
