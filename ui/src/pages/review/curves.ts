import type { Schemas } from "../../api/client";

type Curves = Schemas["CurvesBody"];
export type CurveName = keyof Curves;

interface Curve {
  name: CurveName;
  label: string;
  hint: string;
  /** How a value is spelled. */
  unit: "codes" | "share";
}

/** What can be shown under the player. */
export const CURVES: Curve[] = [
  { name: "mean", label: "Brightness", hint: "Mean of each frame, by the weights of BT.709", unit: "codes" },
  {
    name: "step",
    label: "Step",
    hint: "Mean difference to the frame before; of the first, to the last",
    unit: "codes",
  },
  {
    name: "step_most",
    label: "Largest step",
    hint: "Largest difference of a pixel to the frame before",
    unit: "codes",
  },
  {
    name: "changed",
    label: "Changed pixels",
    hint: "Share of pixels that differ from the frame before",
    unit: "share",
  },
  { name: "red", label: "Red", hint: "Mean of red", unit: "codes" },
  { name: "green", label: "Green", hint: "Mean of green", unit: "codes" },
  { name: "blue", label: "Blue", hint: "Mean of blue", unit: "codes" },
  { name: "low", label: "Darkest", hint: "Darkest pixel", unit: "codes" },
  { name: "high", label: "Lightest", hint: "Lightest pixel", unit: "codes" },
  { name: "dark", label: "Clipped dark", hint: "Share of pixels at 0", unit: "share" },
  { name: "light", label: "Clipped light", hint: "Share of pixels at full scale", unit: "share" },
  { name: "sharpness", label: "Sharpness", hint: "Standard deviation of the Laplacian", unit: "codes" },
  { name: "noise", label: "Noise", hint: "Standard deviation, estimated", unit: "codes" },
  { name: "clear", label: "Transparent", hint: "Share of fully transparent pixels", unit: "share" },
];

/** Between two that are compared. */
export const APART = {
  apart: "Difference of both",
  most: "Largest difference of both",
};

export const curveOf = (name: CurveName) => CURVES.find((one) => one.name === name) ?? CURVES[0];

/** A figure for people: codes of 255, or per cent. */
export function figure(value: number, unit: Curve["unit"]): string {
  if (Number.isNaN(value)) return "no frame";
  if (unit === "share") return `${(100 * value).toFixed(value > 0 && value < 0.001 ? 3 : 1)} %`;
  const codes = 255 * value;
  return `${codes.toFixed(codes < 10 ? 2 : 1)} of 255`;
}

interface Drawing {
  width: number;
  height: number;
  count: number;
  first: number;
  from: number;
  to: number;
  lines: { values: number[]; other: boolean }[];
  findings: { frames: number[] }[];
  notes: { first: number; last: number; is_open: boolean }[];
  missing: number[];
}

export const RULER = 16;
const MARKS = 9;

export const xOf = (frame: number, count: number, width: number) => (frame / count) * width;

/** Draws curves over all frames, marks of findings above them and of notes below. */
export function drawCurves(canvas: HTMLCanvasElement, d: Drawing) {
  const scale = devicePixelRatio || 1;
  canvas.width = d.width * scale;
  canvas.height = d.height * scale;
  const ink = canvas.getContext("2d");
  if (!ink) return;
  ink.scale(scale, scale);
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(`--color-${name}`).trim();
  const content = colour("base-content");
  const [top, bottom] = [RULER + MARKS, d.height - MARKS];
  ink.fillStyle = colour("base-200");
  ink.fillRect(0, RULER, d.width, d.height - RULER);
  drawRuler(ink, d, content);
  for (const line of d.lines)
    drawLine(
      ink,
      d,
      line.values,
      top + 2,
      bottom - 2,
      line.other ? colour("warning") : colour("primary"),
      line.other,
    );
  drawMarks(ink, d, colour("warning"), colour("primary"), content);
  ink.globalAlpha = 0.22;
  ink.fillStyle = content;
  ink.fillRect(0, RULER, xOf(d.from, d.count, d.width), d.height);
  const right = xOf(d.to + 1, d.count, d.width);
  ink.fillRect(right, RULER, d.width - right, d.height);
  ink.globalAlpha = 1;
}

type Ink = CanvasRenderingContext2D;

function drawRuler(ink: Ink, d: Drawing, content: string) {
  ink.font = '11px "Atkinson Hyperlegible Mono", monospace';
  ink.fillStyle = content;
  const most = Math.max(Math.floor(d.width / 80), 1);
  const rough = d.count / most;
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1)));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough) ?? power;
  for (let at = 0; at < d.count; at += step) {
    const x = Math.round(xOf(at, d.count, d.width));
    ink.globalAlpha = 0.5;
    ink.fillRect(x, RULER - 4, 1, 4);
    ink.globalAlpha = 0.8;
    const label = (at + d.first).toLocaleString("en");
    if (x < d.width - ink.measureText(label).width - 4) ink.fillText(label, x + 3, 11);
  }
  ink.globalAlpha = 1;
}

/** A curve by the lowest and highest value within each pixel, so that a single frame is never left out. */
function drawLine(
  ink: Ink,
  d: Drawing,
  values: number[],
  top: number,
  bottom: number,
  stroke: string,
  dashed: boolean,
) {
  const [low, high] = rangeOf(d.lines.map((line) => line.values));
  const y = (value: number) => bottom - ((value - low) / (high - low || 1)) * (bottom - top);
  ink.strokeStyle = stroke;
  ink.lineWidth = 1.5;
  ink.setLineDash(dashed ? [4, 3] : []);
  ink.beginPath();
  const group = Math.max(Math.ceil(values.length / Math.max(d.width, 1)), 1);
  let begun = false;
  for (let at = 0; at < values.length; at += group) {
    // Frames without a counterpart have no number: the curve has a gap there.
    const part = values.slice(at, at + group).filter((value) => !Number.isNaN(value));
    if (part.length === 0) {
      begun = false;
      continue;
    }
    const x = xOf(at + group / 2, d.count, d.width);
    const [least, most] = [Math.min(...part), Math.max(...part)];
    if (begun) ink.lineTo(x, y(least));
    else ink.moveTo(x, y(part[0]));
    if (most > least) ink.lineTo(x, y(most));
    begun = true;
  }
  ink.stroke();
  ink.setLineDash([]);
}

/** Findings as triangles above, notes as bars below: shapes tell them apart, and colour as well. */
function drawMarks(ink: Ink, d: Drawing, warning: string, primary: string, content: string) {
  ink.fillStyle = warning;
  for (const { frames } of d.findings)
    for (const frame of frames.slice(0, 400)) {
      const x = xOf(frame + 0.5, d.count, d.width);
      ink.beginPath();
      ink.moveTo(x - 4, RULER + 1);
      ink.lineTo(x + 4, RULER + 1);
      ink.lineTo(x, RULER + MARKS - 1);
      ink.fill();
    }
  for (const note of d.notes) {
    ink.fillStyle = primary;
    ink.globalAlpha = note.is_open ? 1 : 0.4;
    const x = xOf(note.first, d.count, d.width);
    const wide = Math.max(xOf(note.last + 1, d.count, d.width) - x, 4);
    ink.fillRect(x, d.height - MARKS + 2, wide, MARKS - 3);
  }
  ink.globalAlpha = 1;
  ink.strokeStyle = content;
  for (const frame of d.missing) {
    const x = xOf(frame + 0.5, d.count, d.width);
    ink.beginPath();
    ink.moveTo(x - 3, d.height - MARKS - 6);
    ink.lineTo(x + 3, d.height - MARKS);
    ink.moveTo(x + 3, d.height - MARKS - 6);
    ink.lineTo(x - 3, d.height - MARKS);
    ink.stroke();
  }
}

/** The lowest and the highest of several rows of values. */
export function rangeOf(rows: number[][]): [number, number] {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const row of rows)
    for (const value of row) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
  return low <= high ? [low, high] : [0, 1];
}

/** With a capital letter, as sentences begin. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
