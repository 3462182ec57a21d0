/** A shortcut: where it applies, the keys as help writes them, and as a press names them. */
interface Shortcut {
  group: "Frames" | "Shot" | "On the strip" | "In the viewfinder" | "In a proof" | "In a field";
  keys: string[];
  does: string;
  /** Names of presses, from `pressOf`; without them a part of the interface knows its keys by itself. */
  presses?: string[];
}

/** All shortcuts. What handles them, the list in help and the titles of buttons look them up here. */
export const SHORTCUTS = {
  step: { group: "Frames", keys: ["←", "→"], does: "previous or next frame; with Shift, ten frames" },
  ends: { group: "Frames", keys: ["Home", "End"], does: "first and last frame" },
  play: { group: "Frames", keys: ["Space"], presses: [" "], does: "play and stop" },
  loop: { group: "Frames", keys: ["r"], presses: ["r"], does: "toggle looping" },
  playFrom: { group: "Frames", keys: ["["], presses: ["["], does: "play from this frame" },
  playTo: { group: "Frames", keys: ["]"], presses: ["]"], does: "play up to this frame" },
  playAll: { group: "Frames", keys: ["\\"], presses: ["\\"], does: "play all" },
  undo: { group: "Shot", keys: ["Ctrl Z"], presses: ["ctrl z"], does: "undo" },
  redo: { group: "Shot", keys: ["Ctrl Shift Z"], presses: ["ctrl shift z", "ctrl y"], does: "redo" },
  lanes: { group: "Shot", keys: ["l"], presses: ["l"], does: "lanes on the strip" },
  drawing: { group: "Shot", keys: ["p"], presses: ["p"], does: "plan and elevation" },
  saveView: { group: "Shot", keys: ["v"], presses: ["v"], does: "save this view" },
  compare: {
    group: "Shot",
    keys: ["b"],
    presses: ["b"],
    does: "keep this camera for comparison, then switch between the two",
  },
  make: {
    group: "Shot",
    keys: ["Ctrl Enter"],
    presses: ["ctrl enter"],
    does: "capture; in Dispatch and on a reel, make the files",
  },
  close: { group: "Shot", keys: ["Escape"], does: "close what is open" },
  help: { group: "Shot", keys: ["?"], presses: ["?"], does: "this list" },
  zoomIn: { group: "On the strip", keys: ["+"], presses: ["+", "="], does: "zoom in" },
  zoomOut: { group: "On the strip", keys: ["-"], presses: ["-"], does: "zoom out" },
  seeAll: { group: "On the strip", keys: ["0"], presses: ["0"], does: "see all frames" },
  orbit: {
    group: "In the viewfinder",
    keys: ["←", "→", "↑", "↓"],
    does: "orbit by 2°; with Shift 10°, with Alt pan",
  },
  nearer: { group: "In the viewfinder", keys: ["+"], presses: ["+"], does: "nearer" },
  farther: { group: "In the viewfinder", keys: ["-"], presses: ["-"], does: "farther" },
  rollLeft: {
    group: "In the viewfinder",
    keys: [","],
    presses: [","],
    does: "roll to the left, where the rig allows it",
  },
  rollRight: {
    group: "In the viewfinder",
    keys: ["."],
    presses: ["."],
    does: "roll to the right, where the rig allows it",
  },
  otherProof: { group: "In a proof", keys: ["x"], presses: ["x"], does: "show the other proof" },
  stepField: { group: "In a field", keys: ["↑", "↓"], does: "one step up or down; with Shift, ten" },
  take: { group: "In a field", keys: ["Enter"], does: "apply the value" },
  restore: { group: "In a field", keys: ["Escape"], does: "restore the old value" },
} as const satisfies Record<string, Shortcut>;

export type Act = keyof typeof SHORTCUTS;

interface Press {
  key: string;
  ctrlKey: boolean;
  metaKey: boolean;
  shiftKey: boolean;
}

/** A key press in words, such as "ctrl shift z"; Shift alone is what some keyboards need for a sign. */
function pressOf({ key, ctrlKey, metaKey, shiftKey }: Press): string {
  const name = key.toLowerCase();
  return ctrlKey || metaKey ? `ctrl ${shiftKey ? "shift " : ""}${name}` : name;
}

/** The shortcut of a key press, of those that apply there. */
export function shortcutOf(press: Press, ...acts: Act[]): Act | undefined {
  const name = pressOf(press);
  return acts.find((act) => (SHORTCUTS[act] as Shortcut).presses?.includes(name));
}

/** A title with the keys that do the same. */
export const withKeys = (title: string, act: Act) => `${title} (${SHORTCUTS[act].keys.join(" ")})`;
