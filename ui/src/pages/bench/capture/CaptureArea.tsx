import { TriangleAlert } from "lucide-react";
import type { Shot } from "../../../api/client";
import { Notice } from "../../../parts/Notice";
import { CaptureButton } from "./CaptureButton";
import { ProofUnderWay, ProofView } from "./ProofView";
import { useCapture } from "./useCapture";
import type { Proofs } from "./useProofs";

interface Props {
  shot: Shot;
  frame: number;
  proofs: Proofs;
  /** Why the viewfinder has no picture, or null. */
  trouble: Error | null;
}

/** The button at the end of the timing, its menu, and the reason while it cannot be pressed. */
export function CaptureArea({ shot, frame, proofs, trouble }: Props) {
  const capture = useCapture(shot, trouble);
  return (
    <div className="flex max-w-[420px] flex-col items-end gap-1">
      <CaptureButton capture={capture} frame={frame} onProof={() => proofs.prove(false)} />
      {capture.blocked && (
        <p id="cannot-capture" className="flex gap-1 text-note leading-snug" data-testid="blocked">
          <TriangleAlert size={14} className="mt-px shrink-0 text-warning" aria-hidden />
          <span className="line-clamp-2">Cannot be captured yet: {capture.blocked.message}</span>
        </p>
      )}
      <ProofUnderWay proofs={proofs} />
      <ProofView proofs={proofs} />
      <Notice error={capture.error} onClose={capture.dismiss} />
      <Notice error={proofs.error} onClose={proofs.dismiss} />
    </div>
  );
}
