import { Box, Braces, ChartLine, Film, Globe, Images, type LucideIcon, PenTool, Waves } from "lucide-react";
import type { ShotDocument } from "../api/client";

export type Kind = ShotDocument["source"]["kind"];

interface About {
  icon: LucideIcon;
  /** What it is, in a few words. */
  is: string;
  /** What a person brings. */
  bring: string;
}

/** All kinds of source, in the order in which they are offered. */
export const KINDS: Record<Kind, About> = {
  model: { icon: Braces, is: "code that builds geometry", bring: "Python with @model" },
  sketch: { icon: PenTool, is: "code that draws a picture", bring: "Python with @sketch" },
  simulation: { icon: Waves, is: "code that advances a state", bring: "Python with @simulation" },
  series: { icon: ChartLine, is: "data, one slice a frame", bring: "CSV, Parquet, .npy, VTK sets" },
  object: { icon: Box, is: "a mesh file", bring: "OBJ, STL, PLY, glTF, VTP" },
  page: { icon: Globe, is: "a page in a browser", bring: "HTML, SVG, or a ZIP of a page" },
  stills: { icon: Images, is: "numbered pictures", bring: "PNG, JPEG, TIFF, WebP, EXR" },
  clip: { icon: Film, is: "a video file", bring: "MP4, MOV, WebM and others" },
};

export function KindIcon({ kind, size = 18 }: { kind: string; size?: number }) {
  const Icon = KINDS[kind as Kind]?.icon ?? Box;
  return <Icon size={size} className="shrink-0" aria-hidden />;
}

/** Whether a kind always stands before the camera. */
export const standsBeforeCamera = (kind: string) => kind === "model" || kind === "object";

export const hasDials = (kind: string) => ["model", "sketch", "simulation", "series"].includes(kind);

/** Whether a person wrote the source's text, so that there is something to edit. */
export const isText = (kind: string) => ["model", "sketch", "simulation", "page"].includes(kind);
