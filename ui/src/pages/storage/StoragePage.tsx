import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { body, client, type Schemas } from "../../api/client";
import { ErrorAlert } from "../../parts/ErrorAlert";
import { NumberEntry } from "../../parts/entries/NumberEntry";
import { count, size, when } from "../../parts/format";
import { Notice } from "../../parts/Notice";
import { PageHead } from "../../parts/PageHead";

type Storage = Schemas["StorageBody"];
type Kind = Schemas["UnusedGroupBody"]["name"];

const storageQuery = (older: number) =>
  queryOptions({
    queryKey: ["storage", older],
    placeholderData: (before: Storage | undefined) => before,
    queryFn: () => body(client.GET("/api/storage", { params: { query: { older_days: older } } })),
  });

/** The size of the project on disk, and the parts that nothing uses. */
export function StoragePage() {
  const [older, setOlder] = useState(0);
  const { data, error } = useQuery(storageQuery(older));
  return (
    <div className="mx-auto max-w-5xl px-6 py-4 max-sm:px-3">
      <PageHead title="Storage">
        What this project takes on disk. Takes stay, and all that takes, reels, files and hand-overs need.
      </PageHead>
      {error && !data && <ErrorAlert error={error} />}
      {!data && !error && <p className="quiet">Measuring…</p>}
      {data && (
        <div className="grid grid-cols-2 items-start gap-4 max-lg:grid-cols-1">
          <Whole storage={data} />
          <Unused storage={data} older={older} onOlder={setOlder} />
          <Takes takes={data.takes} />
        </div>
      )}
    </div>
  );
}

function Panel({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <section className="rounded-box border rule bg-base-100 p-4" aria-label={label}>
      <h2 className="mb-2 text-base font-semibold">{label}</h2>
      {children}
    </section>
  );
}

function Whole({ storage }: { storage: Storage }) {
  const most = Math.max(...storage.groups.map((one) => one.bytes), 1);
  return (
    <Panel label="The project">
      <p className="figures mb-3" data-testid="storage-size">
        <b className="text-xl">{size(storage.bytes)}</b>
        <span className="quiet ml-2 font-sans text-small">{size(storage.free)} free on its disk</span>
      </p>
      <KeptFree keep={storage.keep} />
      <table className="w-full text-small">
        <tbody>
          {[...storage.groups]
            .sort((a, b) => b.bytes - a.bytes)
            .map((group) => (
              <tr key={group.name}>
                <th scope="row" className="py-1 pr-2 text-left font-normal">
                  {group.label} <span className="quiet text-note">{group.about}</span>
                  <span
                    className="mt-0.5 block h-1.5 rounded bg-primary"
                    style={{ width: `${(100 * group.bytes) / most}%` }}
                    aria-hidden
                  />
                </th>
                <td className="figures quiet whitespace-nowrap pl-2 text-right align-top">
                  {group.files.toLocaleString("en")}
                </td>
                <td className="figures whitespace-nowrap pl-3 text-right align-top">{size(group.bytes)}</td>
              </tr>
            ))}
        </tbody>
      </table>
      <p className="quiet mt-2 break-all text-note">{storage.home}</p>
    </Panel>
  );
}

/** How much of the disk captures leave free. */
function KeptFree({ keep }: { keep: number }) {
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (keep_free_mb: number) =>
      body(client.PUT("/api/settings", { body: { on_end: null, keep_free_mb } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["storage"] }),
  });
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2 text-small">
      Captures pause while less than
      <NumberEntry
        label="Gigabytes that stay free"
        value={keep / 1e9}
        min={0}
        max={1e6}
        width="4.5rem"
        onCommit={(gigabytes) => save.mutate(gigabytes * 1000)}
      />
      GB are free.
      <ErrorAlert error={save.error} onClose={save.reset} />
    </div>
  );
}

interface UnusedProps {
  storage: Storage;
  older: number;
  onOlder: (days: number) => void;
}

/** What may be removed, looked through first. */
function Unused({ storage, older, onOlder }: UnusedProps) {
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<Kind[] | null>(null);
  const [looked, setLooked] = useState(false);
  const kinds = chosen ?? storage.unused.filter((one) => !one.made_again).map((one) => one.name);
  const groups = storage.unused.filter((one) => kinds.includes(one.name));
  const bytes = groups.reduce((sum, one) => sum + one.bytes, 0);
  const things = groups.reduce((sum, one) => sum + one.count, 0);
  const clean = useMutation({
    mutationFn: () =>
      body(client.POST("/api/storage/clean", { body: { kinds, older_days: older, larger: 0 } })),
    onSuccess: () => {
      setLooked(false);
      void queries.invalidateQueries({ queryKey: ["storage"] });
    },
  });
  const toggle = (name: Kind) =>
    setChosen(kinds.includes(name) ? kinds.filter((one) => one !== name) : [...kinds, name]);
  return (
    <Panel label="What can be removed">
      <ul className="flex flex-col gap-2 text-small">
        {storage.unused.map((group) => (
          <li key={group.name}>
            <label className="flex items-start gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-sm mt-0.5"
                checked={kinds.includes(group.name)}
                onChange={() => toggle(group.name)}
              />
              <span className="min-w-0 flex-1">
                {group.label}
                <span className="quiet block text-note">{group.about}</span>
              </span>
              <span className="figures quiet whitespace-nowrap">{group.count.toLocaleString("en")}</span>
              <span className="figures w-20 whitespace-nowrap text-right">{size(group.bytes)}</span>
            </label>
            {looked && kinds.includes(group.name) && group.count > 0 && <List group={group} />}
          </li>
        ))}
      </ul>
      <div className="mt-3 flex flex-wrap items-center gap-3 text-small">
        <span className="flex items-center gap-2">
          Older than
          <NumberEntry
            label="Older than, days"
            value={older}
            min={0}
            max={36_500}
            width="4rem"
            onCommit={onOlder}
          />
          days
        </span>
        <span className="flex-1" />
        {things > 0 && !looked && (
          <button type="button" className="btn btn-sm" onClick={() => setLooked(true)}>
            List {count(things, "item")}
          </button>
        )}
        {looked && (
          <button
            type="button"
            className="btn btn-error btn-sm"
            onClick={() => clean.mutate()}
            disabled={things === 0 || clean.isPending}
          >
            <Trash2 size={15} aria-hidden /> Remove {count(things, "item")}, {size(bytes)}
          </button>
        )}
      </div>
      <p className="quiet mt-2 text-note">
        What has changed in the last ten minutes is not listed. Removed files cannot be restored.
      </p>
      {clean.data && (
        <p className="mt-2 text-small" role="status">
          {count(clean.data.count, "item")} removed, {size(clean.data.bytes)} freed.
        </p>
      )}
      <Notice error={clean.error} onClose={() => clean.reset()} />
    </Panel>
  );
}

function List({ group }: { group: Schemas["UnusedGroupBody"] }) {
  return (
    <ul className="figures ml-7 mt-1 max-h-40 overflow-auto rounded border rule p-2 text-note">
      {group.largest.map((one) => (
        <li key={one.name} className="flex gap-2">
          <span className="min-w-0 flex-1 truncate" title={one.name}>
            {one.name}
          </span>
          <span className="quiet whitespace-nowrap">{when(one.changed)}</span>
          <span className="w-16 whitespace-nowrap text-right">{size(one.bytes)}</span>
        </li>
      ))}
      {group.count > group.largest.length && (
        <li className="quiet">and {count(group.count - group.largest.length, "other")}</li>
      )}
    </ul>
  );
}

/** Each take with what it takes, and who needs it. */
function Takes({ takes }: { takes: Storage["takes"] }) {
  return (
    <section className="col-span-full rounded-box border rule bg-base-100 p-4" aria-label="Takes">
      <h2 className="mb-2 text-base font-semibold">Takes</h2>
      {takes.length === 0 ? (
        <p className="quiet text-small">No take has a frame yet.</p>
      ) : (
        <table className="w-full text-small">
          <thead className="quiet text-left text-note">
            <tr>
              <th className="font-normal">Take</th>
              <th className="font-normal">Needed by</th>
              <th className="text-right font-normal">Frames</th>
              <th className="text-right font-normal">Freed if deleted</th>
            </tr>
          </thead>
          <tbody>
            {takes.map((take) => (
              <tr key={take.run} className="border-t rule">
                <td className="py-1.5 pr-3">
                  <Link to={`/runs/${take.run}`} className="link">
                    {take.title}
                  </Link>{" "}
                  <span className="quiet whitespace-nowrap text-note">
                    {take.run} · {when(take.created)}
                  </span>
                </td>
                <td className="pr-3">
                  {[...take.reels, ...(take.files ? [count(take.files, "file")] : [])].join(", ") || (
                    <span className="quiet">nothing</span>
                  )}
                </td>
                <td className="figures whitespace-nowrap text-right">{size(take.bytes)}</td>
                <td className="figures whitespace-nowrap text-right">{size(take.own_bytes)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
