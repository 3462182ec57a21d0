import { useQuery } from "@tanstack/react-query";
import { HardDrive } from "lucide-react";
import { Link } from "react-router";
import { runsQuery } from "../../api/queries";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { count } from "../../parts/format";
import { PageHead } from "../../parts/PageHead";
import { Queue } from "./Queue";
import { RunLine } from "./RunLine";
import { WhenEnded } from "./WhenEnded";

export function RunList() {
  const { data, error } = useQuery(runsQuery);
  const runs = data?.runs ?? [];
  return (
    <div className="mx-auto max-w-6xl px-6 py-5 max-sm:px-3">
      <div className="flex items-start">
        <PageHead title="Runs">Watch captures, stop and resume them, and find their frames.</PageHead>
        <span className="flex-1" />
        <Link to="/storage" className="btn btn-sm">
          <HardDrive size={16} aria-hidden /> Storage
        </Link>
      </div>
      <ErrorAlert error={error} />
      {!data && !error && (
        <p className="quiet" role="status">
          Loading the runs…
        </p>
      )}
      {data && runs.length === 0 && (
        <p className="quiet rounded-box border border-dashed rule p-10 text-center">
          Nothing has been captured yet. Open a{" "}
          <Link to="/" className="link">
            shot
          </Link>{" "}
          and press its <b>Capture</b> button; the run appears here with its progress, and stays with its
          frames.
        </p>
      )}
      <Queue runs={runs} />
      {runs.length > 0 && (
        <ul className="rounded-box border rule bg-base-100 px-4 py-1 max-sm:px-2">
          {runs.map((run) => (
            <RunLine key={run.id} run={run} />
          ))}
        </ul>
      )}
      {data && data.total > runs.length && (
        <p className="quiet mt-2 text-small">
          {runs.length.toLocaleString("en")} of {count(data.total, "run")} are listed: the newest, and those
          that come next. The contact sheet of a shot leads to all of its variants.
        </p>
      )}
      <WhenEnded />
    </div>
  );
}
