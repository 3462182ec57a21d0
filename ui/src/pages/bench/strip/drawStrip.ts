import type { Schemas } from "../../../api/client";
import { type View, xOf } from "./view";

interface Drawing {
  width: number;
  height: number;
  view: View;
  frames: number;
  frame: number;
  label: string;
  stretch: { from: number; to: number } | null;
  ticks: Schemas["Tick"][];
  curves: Schemas["LaneCurve"][];
  states: string;
  bands: boolean;
  /** How fast the camera goes, at some frames; empty where it stands. */
  speeds: { frames: number[]; values: number[] };
  /** Whose colours the page has now. */
  theme: string;
}

export const RULER = 18;
export const STATES = 14;

/** Draws the strip: ruler above, cells with lane curves, states below, playhead over all. */
export function drawStrip(canvas: HTMLCanvasElement, d: Drawing) {
  const scale = devicePixelRatio || 1;
  canvas.width = d.width * scale;
  canvas.height = d.height * scale;
  const ink = canvas.getContext("2d");
  if (!ink) return;
  ink.scale(scale, scale);
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(`--color-${name}`).trim();
  const content = colour("base-content");
  const band = { top: RULER, bottom: d.height - STATES - 3 };

  ink.font = '11px "Atkinson Hyperlegible Mono", monospace';
  drawCells(ink, d, band, colour("base-200"), colour("base-300"));
  drawRuler(ink, d, content);
  if (!d.bands) drawSpeeds(ink, d, band, content);
  if (!d.bands) for (const curve of d.curves) drawCurve(ink, d, curve, band, colour("primary"));
  drawStates(ink, d, { content, made: colour("primary"), failed: colour("error") });
  if (d.stretch) drawStretch(ink, d, d.stretch, content);
  drawPlayhead(ink, d, content, colour("base-100"));
}

type Ink = CanvasRenderingContext2D;
interface Band {
  top: number;
  bottom: number;
}

const cellOf = (d: Drawing) => d.width / (d.view.to - d.view.from);

/** Frames in sight, in groups of so many. */
function* groups(d: Drawing, group: number) {
  const first = Math.floor(d.view.from / group) * group;
  for (let i = first; i < Math.min(d.view.to, d.frames); i += group) yield i;
}

function drawCells(ink: Ink, d: Drawing, band: Band, fill: string, line: string) {
  ink.fillStyle = fill;
  ink.fillRect(0, band.top, d.width, band.bottom - band.top);
  ink.fillStyle = line;
  // Where cells would be finer than the eye sees, several frames share one.
  for (const i of groups(d, Math.max(1, Math.ceil(3 / cellOf(d)))))
    ink.fillRect(Math.round(xOf(i, d.view, d.width)), band.top, 0.5, band.bottom - band.top);
}

function drawRuler(ink: Ink, d: Drawing, content: string) {
  ink.fillStyle = content;
  const head = headOf(ink, d);
  for (const tick of d.ticks) {
    const x = Math.round(xOf(tick.at, d.view, d.width));
    if (x < -40 || x > d.width) continue;
    ink.globalAlpha = 0.5;
    ink.fillRect(x, RULER - 5, 1, 5);
    ink.globalAlpha = 0.8;
    const wide = ink.measureText(tick.label).width;
    const hidden = head && x + 3 < head.left + head.wide + 2 && x + 3 + wide > head.left - 2;
    if (!hidden && x < d.width - wide - 4) ink.fillText(tick.label, x + 3, 11);
  }
  ink.globalAlpha = 1;
}

function drawCurve(ink: Ink, d: Drawing, curve: Drawing["curves"][number], band: Band, stroke: string) {
  const range = curve.high - curve.low || 1;
  ink.strokeStyle = stroke;
  ink.lineWidth = 1.75;
  ink.beginPath();
  curve.values.forEach((value, n) => {
    const x = xOf(curve.frames[n] + 0.5, d.view, d.width);
    const y = band.bottom - 4 - ((value - curve.low) / range) * (band.bottom - band.top - 8);
    if (n === 0) ink.moveTo(x, y);
    else ink.lineTo(x, y);
  });
  ink.stroke();
}

/** The camera's speed as a profile from the foot of the cells; where it is level, the camera goes evenly. */
function drawSpeeds(ink: Ink, d: Drawing, band: Band, fill: string) {
  const { frames, values } = d.speeds;
  const most = Math.max(...values);
  if (values.length < 2 || most <= 0) return;
  const high = (band.bottom - band.top) * 0.62;
  const x = (n: number) => xOf(frames[n] + 0.5, d.view, d.width);
  ink.beginPath();
  ink.moveTo(x(0), band.bottom);
  values.forEach((value, n) => {
    ink.lineTo(x(n), band.bottom - (value / most) * high);
  });
  ink.lineTo(x(values.length - 1), band.bottom);
  ink.closePath();
  ink.fillStyle = fill;
  ink.globalAlpha = 0.2;
  ink.fill();
  ink.globalAlpha = 1;
}

/** States by shape as well as colour: full bar made, open bar reused, cross failed, thin line waiting. */
function drawStates(ink: Ink, d: Drawing, c: { content: string; made: string; failed: string }) {
  const top = d.height - STATES;
  const group = Math.max(1, Math.ceil(5 / cellOf(d)));
  const wide = cellOf(d) * group;
  for (const i of groups(d, group)) {
    const state = stateOf(d.states.slice(i, i + group));
    const x = xOf(i, d.view, d.width);
    const gap = wide > 4 ? 1 : 0.5;
    ink.fillStyle = c.made;
    ink.strokeStyle = c.made;
    ink.lineWidth = 1;
    if (state === "m") ink.fillRect(x, top + 1, wide - gap, STATES - 3);
    else if (state === "k") ink.strokeRect(x + 0.5, top + 1.5, Math.max(wide - gap - 1, 1), STATES - 4);
    else if (state === "f") drawCross(ink, x + wide / 2, top + STATES / 2, 4, c.failed);
    else {
      ink.fillStyle = c.content;
      ink.globalAlpha = 0.35;
      ink.fillRect(x, top + STATES / 2 - 0.5, wide - gap, 1);
      ink.globalAlpha = 1;
    }
  }
}

/** What a group of frames shows: the worst of them. */
function stateOf(within: string): string {
  if (within.includes("f")) return "f";
  if (within.includes("w") || !within) return "w";
  return within.includes("m") ? "m" : "k";
}

function drawCross(ink: Ink, x: number, y: number, r: number, stroke: string) {
  ink.strokeStyle = stroke;
  ink.lineWidth = 2;
  ink.beginPath();
  ink.moveTo(x - r, y - r);
  ink.lineTo(x + r, y + r);
  ink.moveTo(x + r, y - r);
  ink.lineTo(x - r, y + r);
  ink.stroke();
}

/** What is not played is dimmed, and the ends of what is stand as brackets. */
function drawStretch(ink: Ink, d: Drawing, stretch: { from: number; to: number }, content: string) {
  const left = Math.max(xOf(stretch.from, d.view, d.width), 0);
  const right = Math.min(xOf(stretch.to + 1, d.view, d.width), d.width);
  ink.fillStyle = content;
  ink.globalAlpha = 0.22;
  ink.fillRect(0, RULER, left, d.height - RULER);
  ink.fillRect(right, RULER, d.width - right, d.height - RULER);
  ink.globalAlpha = 1;
  for (const [x, way] of [
    [left, 1],
    [right - 2, -1],
  ]) {
    ink.fillRect(x, RULER, 2, d.height - RULER);
    ink.fillRect(way > 0 ? x : x - 4, RULER, 6, 2);
    ink.fillRect(way > 0 ? x : x - 4, d.height - 2, 6, 2);
  }
}

/** The playhead, with the box of its label; nothing where it is out of sight. */
function headOf(ink: Ink, d: Drawing): { x: number; left: number; wide: number } | null {
  const middle = xOf(d.frame + 0.5, d.view, d.width);
  if (middle < 0 || middle > d.width) return null;
  const x = Math.min(Math.round(middle), d.width - 1);
  const wide = ink.measureText(d.label).width + 10;
  return { x, wide, left: Math.min(Math.max(x - wide / 2, 0), d.width - wide) };
}

function drawPlayhead(ink: Ink, d: Drawing, content: string, paper: string) {
  const head = headOf(ink, d);
  if (!head) return;
  const { x, left, wide } = head;
  ink.fillStyle = content;
  ink.fillRect(x - 1, RULER - 4, 2, d.height - RULER + 4);
  ink.fillRect(left, 0, wide, RULER - 3);
  ink.fillStyle = paper;
  ink.fillText(d.label, left + 5, 11);
}
