import { TriangleAlert } from "lucide-react";
import type { Shot } from "../../../api/client";
import { useShortcut } from "../../../parts/hooks/useShortcut";
import { Notice } from "../../../parts/Notice";
import type { Edit } from "../edit";
import { useSeam } from "../useSeam";
import { CaptureButton } from "./CaptureButton";
import { FindingsButton } from "./FindingsButton";
import { ProofUnderWay, ProofView } from "./ProofView";
import { useCapture } from "./useCapture";
import type { Proofs } from "./useProofs";

interface Props {
  shot: Shot;
  frame: number;
  edit: Edit;
  proofs: Proofs;
  /** Why the viewfinder has no picture, or null. */
  trouble: Error | null;
  /** Where that is shown. */
  errorIn: string;
  onVariants: () => void;
}

/** The button at the end of the timing, its menu, and the reason while it cannot be pressed. */
export function CaptureArea({ shot, frame, edit, proofs, trouble, errorIn, onVariants }: Props) {
  const capture = useCapture(shot, trouble);
  const { seam, measure } = useSeam(shot);
  useShortcut("make", capture.go);
  return (
    <div className="flex max-w-[420px] flex-col items-end gap-1 max-md:w-full max-md:max-w-none">
      <div className="flex items-center gap-1.5">
        <FindingsButton shot={shot} edit={edit} />
        <CaptureButton
          {...{ shot, capture, frame, edit, onVariants }}
          onProof={() => {
            proofs.prove(false);
            if (seam.state === "source") measure();
          }}
        />
      </div>
      {capture.blocked && (
        <p id="cannot-capture" className="flex gap-1 text-note leading-snug" data-testid="blocked">
          <TriangleAlert size={14} className="mt-px shrink-0 text-warning" aria-hidden />
          <span>Cannot be captured yet: see the error {errorIn}.</span>
        </p>
      )}
      <ProofUnderWay proofs={proofs} />
      <ProofView proofs={proofs} seam={seam.state === "none" ? "" : seam.what} />
      <Notice error={capture.error} onClose={capture.dismiss} />
      <Notice error={proofs.error} onClose={proofs.dismiss} />
    </div>
  );
}
