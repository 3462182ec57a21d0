/** Keys of the Bench, as they are written on a keyboard. */
const KEYS: [string, [string[], string][]][] = [
  [
    "Frames",
    [
      [["←", "→"], "previous or next frame; with Shift, ten frames"],
      [["Home", "End"], "first and last frame"],
      [["Space"], "play and stop"],
      [["r"], "toggle looping"],
      [["["], "play from this frame"],
      [["]"], "play up to this frame"],
      [["\\"], "play all"],
    ],
  ],
  [
    "Shot",
    [
      [["Ctrl Z"], "undo"],
      [["Ctrl Shift Z"], "redo"],
      [["l"], "lanes on the strip"],
      [["p"], "plan and elevation"],
      [["v"], "save this view"],
      [["b"], "keep this camera for comparison, then switch between the two"],
      [["Escape"], "close what is open"],
      [["?"], "this list"],
    ],
  ],
  [
    "In the viewfinder",
    [
      [["←", "→", "↑", "↓"], "orbit by 2°; with Shift 10°, with Alt pan"],
      [["+", "-"], "nearer, farther"],
      [[",", "."], "roll, where the rig allows it"],
    ],
  ],
  [
    "In a field",
    [
      [["↑", "↓"], "one step up or down; with Shift, ten"],
      [["Enter"], "apply the value"],
      [["Escape"], "restore the old value"],
    ],
  ],
];

/** All shortcuts, in groups. */
export function Shortcuts() {
  return (
    <div className="grid grid-cols-2 gap-x-8 gap-y-4 max-lg:grid-cols-1">
      {KEYS.map(([group, rows]) => (
        <section key={group}>
          <h2 className="mb-1 text-lead font-semibold">{group}</h2>
          <dl className="text-small">
            {rows.map(([keys, does]) => (
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
