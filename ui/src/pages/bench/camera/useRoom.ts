import { type RefObject, useEffect, useState } from "react";

/** Width and height in pixels that the picture may take. */
export function useRoom(ref: RefObject<HTMLDivElement | null>) {
  const [room, setRoom] = useState<{ width: number; height: number } | null>(null);
  useEffect(() => {
    if (!ref.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      if (width > 32 && height > 32) setRoom({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, [ref]);
  return room;
}
