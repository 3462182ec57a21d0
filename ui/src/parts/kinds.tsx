import {
  Box,
  Braces,
  ChartLine,
  Film,
  Globe,
  Image,
  Images,
  type LucideIcon,
  PenTool,
  Waves,
} from "lucide-react";

/** A picture for each kind of source; one that is not here has that of an object. */
const ICONS: Record<string, LucideIcon> = {
  model: Braces,
  sketch: PenTool,
  simulation: Waves,
  series: ChartLine,
  object: Box,
  page: Globe,
  stills: Images,
  photo: Image,
  clip: Film,
};

export function KindIcon({ kind, size = 18 }: { kind: string; size?: number }) {
  const Icon = ICONS[kind] ?? Box;
  return <Icon size={size} className="shrink-0" aria-hidden />;
}
