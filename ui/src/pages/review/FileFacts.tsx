import { useQuery } from "@tanstack/react-query";
import { TriangleAlert } from "lucide-react";
import { Link } from "react-router";
import { body, client } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { capital } from "./curves";
import type { Of } from "./queries";

/** What is in a file, and its provenance record. */
export function FileFacts({ of }: { of: Of }) {
  const { data, error } = useQuery({
    queryKey: ["inspected", of.kind, of.name],
    retry: false,
    queryFn: () =>
      body(
        client.GET("/api/reviews/{kind}/{name}/inspected", {
          params: { path: { kind: of.kind, name: of.name } },
        }),
      ),
  });
  if (error) return <ErrorAlert error={error} />;
  if (!data) return <p className="quiet text-small">Reading the file…</p>;
  const { made } = data;
  return (
    <section className="mt-3 text-small" aria-label="The file" data-testid="file-facts">
      <h3 className="mb-1 font-semibold">The file</h3>
      {data.findings.map((finding) => (
        <p key={finding} className="mb-1 flex gap-2">
          <TriangleAlert size={15} className="mt-0.5 shrink-0 text-warning" aria-hidden />
          <span>{capital(finding)}</span>
        </p>
      ))}
      <table className="w-full">
        <tbody>
          {data.facts.map((fact) => (
            <tr key={fact.name} className="border-t rule align-top">
              <th scope="row" className="quiet py-0.5 pr-2 text-left font-normal">
                {fact.name}
              </th>
              <td className="figures break-all py-0.5">{fact.value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {made && (
        <>
          <h3 className="mb-1 mt-3 font-semibold">How it was made</h3>
          {made.said && <p className="figures break-words">{made.said}</p>}
          {made.take > 0 && (
            <p>
              Of{" "}
              <Link to={`/review/take/${made.take}?pass=${made.camera_pass}`} className="link link-primary">
                take {made.take}
              </Link>
              {made.shot_id && (
                <>
                  {" of the shot "}
                  <Link to={`/shots/${made.shot_id}`} className="link link-primary">
                    {made.shot_id}
                  </Link>
                </>
              )}
              {made.recipe && `, by the recipe ${made.recipe}`}.
            </p>
          )}
          {made.reel && (
            <p>
              Of the reel{" "}
              <Link to={`/reels/${made.reel}`} className="link link-primary">
                {made.reel}
              </Link>
              .
            </p>
          )}
          {made.gone.map((sentence) => (
            <p key={sentence}>{sentence}.</p>
          ))}
        </>
      )}
    </section>
  );
}
