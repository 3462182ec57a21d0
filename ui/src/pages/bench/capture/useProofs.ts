import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { body, client, type Schemas, type Shot } from "../../../api/client";
import { shotEdits } from "../../../api/edits";

export interface Proof {
  made: Schemas["ProofBody"];
  /** Of the shot that was proved. */
  revision: number;
}

/** Proofs of one shot: the newest two are kept, to be flipped between. */
export function useProofs(shot: Shot | undefined, frame: number, cameraPass: number) {
  const [proofs, setProofs] = useState<Proof[]>([]);
  const [shown, setShown] = useState<number | null>(null);
  const [begun, setBegun] = useState(0);
  const id = shot?.id ?? "";
  const queries = useQueryClient();
  const prove = useMutation({
    mutationFn: async (_save: boolean) => {
      await shotEdits(id, queries).idle();
      return body(
        client.POST("/api/shots/{shot_id}/proof", {
          params: { path: { shot_id: id } },
          body: { frame, camera_pass: cameraPass },
        }),
      );
    },
    onMutate: () => setBegun(performance.now()),
    onSuccess: (made, save) => {
      if (save) {
        download(`/api/proofs/${made.picture}?download=${encodeURIComponent(made.name)}`);
        return;
      }
      const next = [
        ...proofs.filter((old) => old.made.key !== made.key),
        { made, revision: shot?.revision ?? 0 },
      ];
      setProofs(next.slice(-2));
      setShown(Math.min(next.length, 2) - 1);
    },
  });
  return {
    proofs,
    shown,
    show: setShown,
    /** Makes the frame at full quality: to look at it, or to save it. */
    prove: (save: boolean) => prove.mutate(save),
    going: prove.isPending,
    begun,
    error: prove.error,
    dismiss: () => prove.reset(),
    stop: () => {
      void client.POST("/api/proof/stop");
    },
  };
}

export type Proofs = ReturnType<typeof useProofs>;

function download(address: string) {
  const link = document.createElement("a");
  link.href = address;
  link.download = "";
  link.click();
}
