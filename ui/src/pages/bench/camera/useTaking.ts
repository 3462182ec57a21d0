import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useState } from "react";
import { body, client, type Patch, type Shot } from "../../../api/client";
import { ARROWS } from "../../../parts/hooks/arrows";
import type { Edit } from "../edit";
import { cameraEdit } from "./cameraEdit";

/** What the next press takes: the distance that is sharp, or the point that the camera goes round. */
export type Taking = "focus" | "centre";

/** Shares of the picture's width and height, from the top left. */
interface Place {
  x: number;
  y: number;
}

interface Wanted {
  well: RefObject<HTMLDivElement | null>;
  picture: RefObject<HTMLImageElement | null>;
  shot: Shot;
  camera: number;
  frame: number;
  patch: Patch | undefined;
  edit: Edit;
  taking: Taking | null;
  onTaken: () => void;
}

const MIDDLE: Place = { x: 0.5, y: 0.5 };

/** Taking a point of the picture: pressed, or under a cross that arrow keys move and Enter takes. */
export function useTaking({ well, picture, shot, camera, frame, patch, edit, taking, onTaken }: Wanted) {
  const [cross, setCross] = useState<Place | null>(null);
  const [error, setError] = useState<Error | string | null>(null);
  useEffect(() => {
    setCross(null);
    if (taking) well.current?.focus();
  }, [taking, well]);

  const take = async ({ x, y }: Place) => {
    try {
      const got = await body(
        client.POST("/api/shots/{shot_id}/distance", {
          params: { path: { shot_id: shot.id } },
          body: { frame, x, y, patch: patch ?? {} },
        }),
      );
      setError(got.distance == null ? "There is nothing at that point: click on the subject." : null);
      const save = cameraEdit(shot, camera, edit);
      if (got.point && taking === "centre") {
        save({ camera: { rig: { centre: got.point.map(rounded) } } }, "the centre");
      } else if (got.distance != null) {
        save({ camera: { lens: { focus: rounded(got.distance) } } }, "the focus");
      }
    } catch (failure) {
      setError(failure as Error);
    }
    onTaken();
  };
  const onPress = (event: PointerEvent) => {
    const box = picture.current?.getBoundingClientRect();
    if (!box) return;
    const place = { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
    if (inFrame(place)) void take(place);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const arrow = ARROWS[event.key];
    const from = cross ?? MIDDLE;
    const by = event.shiftKey ? 0.1 : 0.02;
    if (arrow) setCross(within({ x: from.x + by * arrow[0], y: from.y + by * arrow[1] }));
    else if (event.key === "Enter") void take(from);
    else if (event.key === "Escape") onTaken();
    else return;
    event.preventDefault();
  };
  return { cross, error, onPress, onKeyDown };
}

const rounded = (value: number) => Number(value.toPrecision(5));
const inFrame = ({ x, y }: Place) => x >= 0 && x <= 1 && y >= 0 && y <= 1;
const within = ({ x, y }: Place): Place => ({
  x: Math.min(Math.max(x, 0), 1),
  y: Math.min(Math.max(y, 0), 1),
});
