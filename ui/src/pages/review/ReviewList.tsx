import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { when } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";
import { type Other, reviewableQuery } from "./queries";

const GROUPS: { kind: Other["kind"]; label: string }[] = [
  { kind: "take", label: "Takes" },
  { kind: "file", label: "Files" },
  { kind: "reel", label: "Reels" },
];

/** All that can be reviewed, the newest first. */
export function ReviewList() {
  const { data, error } = useQuery(reviewableQuery);
  return (
    <div className="mx-auto max-w-4xl px-6 py-4 max-sm:px-3">
      <PageHead title="Review">
        Frame by frame: what was captured and what was compiled, alone or against another one.
      </PageHead>
      {error && <ErrorAlert error={error} />}
      {!data && !error && <p className="quiet">Loading…</p>}
      {data?.others.length === 0 && (
        <p>
          Nothing has been captured yet.{" "}
          <Link to="/" className="link link-primary">
            Open a shot
          </Link>{" "}
          and capture it; its take appears here.
        </p>
      )}
      {GROUPS.map(({ kind, label }) => {
        const own = data?.others.filter((one) => one.kind === kind) ?? [];
        if (own.length === 0) return null;
        return (
          <section key={kind} className="mb-5" aria-label={label}>
            <h2 className="mb-1 font-semibold">{label}</h2>
            <ul className="rounded-box border rule bg-base-100">
              {own.map((one) => (
                <li key={one.name} className="border-t rule first:border-t-0">
                  <Link
                    to={`/review/${one.kind}/${one.name}`}
                    className="flex items-center gap-3 px-3 py-1.5 hover:bg-base-200"
                  >
                    {one.kind === "take" && (
                      <img
                        className="well h-9 w-16 shrink-0 rounded-sm object-contain"
                        src={`/api/reviews/take/${one.name}/frames/0?wide=160`}
                        alt=""
                        loading="lazy"
                      />
                    )}
                    <span className="min-w-0 flex-1 truncate">{one.title}</span>
                    <span className="quiet figures text-small">
                      {[one.about, when(one.created)].filter(Boolean).join(" · ")}
                    </span>
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}
