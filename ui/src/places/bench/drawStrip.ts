import type { Shot } from "../../api/client";

interface Drawing {
  width: number;
  height: number;
  frames: number;
  frame: number;
  rate: number;
  curves: Shot["curves"];
  states: string;
}

const RULER = 18;
const STATES = 14;
const STEPS = [1, 2, 5, 10, 15, 20, 24, 25, 30, 50, 60, 100, 120, 150, 200, 240, 250, 300, 500, 600];

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
  const cell = d.width / d.frames;
  const middle = { top: RULER, bottom: d.height - STATES - 3 };

  ink.font = '11px "Atkinson Hyperlegible Mono", monospace';
  drawCells(ink, d, cell, middle, colour("base-200"), colour("base-300"));
  drawRuler(ink, d, cell, content);
  for (const curve of d.curves) drawCurve(ink, d, curve, middle, colour("primary"));
  drawStates(ink, d, cell, { content, made: colour("primary"), failed: colour("error") });
  drawPlayhead(ink, d, cell, content, colour("base-100"));
}

type Ink = CanvasRenderingContext2D;
interface Band {
  top: number;
  bottom: number;
}

function drawCells(ink: Ink, d: Drawing, cell: number, band: Band, fill: string, line: string) {
  ink.fillStyle = fill;
  ink.fillRect(0, band.top, d.width, band.bottom - band.top);
  ink.fillStyle = line;
  // Where cells would be finer than the eye sees, several frames share one.
  const group = Math.max(1, Math.ceil(3 / cell));
  for (let i = group; i < d.frames; i += group)
    ink.fillRect(Math.round(i * cell), band.top, 0.5, band.bottom - band.top);
}

function drawRuler(ink: Ink, d: Drawing, cell: number, content: string) {
  const step = STEPS.find((s) => s * cell >= 62) ?? Math.ceil(62 / cell / 1000) * 1000;
  ink.fillStyle = content;
  for (let i = 0; i < d.frames; i += step) {
    const x = Math.round(i * cell);
    ink.globalAlpha = 0.5;
    ink.fillRect(x, RULER - 5, 1, 5);
    ink.globalAlpha = 0.8;
    if (x < d.width - 40) ink.fillText(i.toLocaleString("en"), x + 3, 11);
  }
  ink.globalAlpha = 1;
}

function drawCurve(ink: Ink, d: Drawing, curve: Drawing["curves"][number], band: Band, stroke: string) {
  const range = curve.high - curve.low || 1;
  ink.strokeStyle = stroke;
  ink.lineWidth = 1.75;
  ink.beginPath();
  curve.values.forEach((value, n) => {
    const x = curve.values.length > 1 ? (n / (curve.values.length - 1)) * d.width : 0;
    const y = band.bottom - 4 - ((value - curve.low) / range) * (band.bottom - band.top - 8);
    if (n === 0) ink.moveTo(x, y);
    else ink.lineTo(x, y);
  });
  ink.stroke();
}

/** States by shape as well as colour: full bar made, open bar kept, cross failed, thin line waiting. */
function drawStates(
  ink: Ink,
  d: Drawing,
  cell: number,
  c: { content: string; made: string; failed: string },
) {
  const top = d.height - STATES;
  const group = Math.max(1, Math.ceil(5 / cell));
  const wide = cell * group;
  for (let i = 0; i < d.frames; i += group) {
    const within = d.states.slice(i, i + group);
    const state = within.includes("f")
      ? "f"
      : within.includes("w") || !within
        ? "w"
        : within.includes("m")
          ? "m"
          : "k";
    const x = i * cell;
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

function drawPlayhead(ink: Ink, d: Drawing, cell: number, content: string, paper: string) {
  const x = Math.min(Math.round((d.frame + 0.5) * cell), d.width - 1);
  ink.fillStyle = content;
  ink.fillRect(x - 1, RULER - 4, 2, d.height - RULER + 4);
  const label = d.frame.toLocaleString("en");
  const wide = ink.measureText(label).width + 10;
  const left = Math.min(Math.max(x - wide / 2, 0), d.width - wide);
  ink.fillRect(left, 0, wide, RULER - 3);
  ink.fillStyle = paper;
  ink.fillText(label, left + 5, 11);
}
