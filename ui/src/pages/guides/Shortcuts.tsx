import { SHORTCUTS } from "../../parts/shell/shortcuts";

type Row = (typeof SHORTCUTS)[keyof typeof SHORTCUTS];

const ROWS = Object.values(SHORTCUTS);
const GROUPS = [...new Set(ROWS.map((row) => row.group))].map((group): [string, Row[]] => [
  group,
  ROWS.filter((row) => row.group === group),
]);

/** All shortcuts, in groups. */
export function Shortcuts() {
  return (
    <div className="grid grid-cols-2 gap-x-8 gap-y-4 max-lg:grid-cols-1">
      {GROUPS.map(([group, rows]) => (
        <section key={group}>
          <h2 className="mb-1 text-lead font-semibold">{group}</h2>
          <dl className="text-small">
            {rows.map(({ keys, does }) => (
              <div key={does} className="flex gap-2 py-0.5">
                <dt className="flex w-32 shrink-0 gap-1">
                  {keys.map((key) => (
                    <kbd key={key} className="kbd kbd-sm">
                      {key}
                    </kbd>
                  ))}
                </dt>
                <dd className="m-0">{does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </div>
  );
}
