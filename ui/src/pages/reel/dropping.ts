import type { DragEvent } from "react";
import type { Schemas } from "../../api/client";
import { upload } from "../../api/upload";
import type { Item } from "./reelItems";

/** Under which a list hands over an item that is dragged out of it. */
export const ITEM = "application/x-vexel-item";

export function dragItem(event: DragEvent, item: Record<string, unknown>) {
  event.dataTransfer.setData(ITEM, JSON.stringify(item));
  event.dataTransfer.effectAllowed = "copy";
}

/** Whether something may be dropped that becomes a part of the reel. */
export const mayDrop = (event: DragEvent) =>
  event.dataTransfer.types.includes(ITEM) || event.dataTransfer.types.includes("Files");

/** The item of a list that was dropped. */
export function itemDropped(event: DragEvent): Item | null {
  const text = event.dataTransfer.getData(ITEM);
  return text ? (JSON.parse(text) as Item) : null;
}

/** Dropped files: copied beside the reels, and imported as items. */
export const importFiles = (reel: string, files: File[]) =>
  upload<Schemas["ReelFiles"]>(`/api/reels/${encodeURIComponent(reel)}/files`, files);
