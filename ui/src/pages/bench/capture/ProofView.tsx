import { Download } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { CloseButton } from "../../../parts/CloseButton";
import { short, size } from "../../../parts/format";
import { shortcutOf } from "../../../parts/shell/shortcuts";
import type { Proofs } from "./useProofs";

/** A proof at its true pixels over the Bench, beside the one before it. */
export function ProofView({ proofs, seam }: { proofs: Proofs; seam: string }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const { shown } = proofs;
  const proof = shown === null ? undefined : proofs.proofs[shown];
  useEffect(() => {
    if (proof && !dialog.current?.open) dialog.current?.showModal();
  }, [proof]);
  if (!proof || shown === null) return null;
  const { made } = proof;
  const file = `/api/proofs/${made.picture}`;
  const flip = () => proofs.show(proofs.proofs.length - 1 - shown);
  return (
    <dialog
      ref={dialog}
      className="modal"
      aria-label={`Proof of frame ${made.frame}`}
      data-testid="proof"
      onClose={() => proofs.show(null)}
      onKeyDown={(event) => {
        if (!shortcutOf(event, "otherProof") || proofs.proofs.length < 2) return;
        event.preventDefault();
        flip();
      }}
    >
      <div className="modal-box flex h-[94vh] max-h-none w-[96vw] max-w-none flex-col gap-0 p-0">
        <header className="flex items-center gap-2 border-b rule px-3 py-1.5">
          <h2 className="mr-2 font-semibold">Proof of frame {made.frame}</h2>
          <fieldset aria-label="Proofs" className="join">
            {proofs.proofs.map((one, n) => (
              <button
                key={one.made.key}
                type="button"
                aria-pressed={n === shown}
                className={`btn join-item btn-sm font-normal ${n === shown ? "btn-primary" : ""}`}
                onClick={() => proofs.show(n)}
              >
                <b>{n === 0 ? "A" : "B"}</b>
                <span className="figures">
                  {one.made.samples} samples ·{" "}
                  {one.made.seconds == null ? "already captured" : `${short(one.made.seconds, 2)} s`}
                </span>
              </button>
            ))}
          </fieldset>
          <span className="quiet flex-1 truncate text-small">
            {seam && `Seam: ${seam}. `}
            {proofs.proofs.length > 1
              ? "x switches between the two"
              : "Change a setting and make another proof to switch between the two."}
          </span>
          <span className="figures whitespace-nowrap text-small">
            {made.width} × {made.height} · {size(made.bytes)}
          </span>
          <a className="btn btn-sm" href={`${file}?download=${encodeURIComponent(made.name)}`}>
            <Download size={15} aria-hidden /> Save this frame
          </a>
          <CloseButton label="Close the proof" onClick={() => dialog.current?.close()} />
        </header>
        <section
          className="well grid min-h-0 flex-1 overflow-auto"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by keys
          tabIndex={0}
          aria-label="The proof at actual pixels"
        >
          <img
            className="well-checks m-auto max-w-none"
            style={{ width: made.width / devicePixelRatio }}
            src={file}
            alt={`Frame ${made.frame} at full size`}
            data-testid="proof-picture"
            onLoad={(event) => toMiddle(event.currentTarget.parentElement)}
          />
        </section>
      </div>
    </dialog>
  );
}

/** While a proof is made: for how long now, and a stop. */
export function ProofUnderWay({ proofs }: { proofs: Proofs }) {
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (!proofs.going) return;
    const tick = setInterval(() => setNow(performance.now()), 250);
    return () => clearInterval(tick);
  }, [proofs.going]);
  if (!proofs.going) return null;
  const seconds = Math.max(now - proofs.begun, 0) / 1000;
  return (
    <div
      role="status"
      className="fixed bottom-4 right-4 z-40 flex items-center gap-3 rounded-box border rule bg-base-100 px-3 py-2 text-small shadow-lg"
    >
      <span className="loading loading-spinner loading-sm" aria-hidden />
      Making the proof… <span className="figures">{seconds.toFixed(0)} s</span>
      <button type="button" className="btn btn-xs" onClick={proofs.stop}>
        Stop
      </button>
    </div>
  );
}

/** What is filmed is in the middle as a rule. A proof that was scrolled stays where it is, to be compared. */
function toMiddle(place: HTMLElement | null) {
  if (!place || place.scrollLeft || place.scrollTop) return;
  place.scrollTo((place.scrollWidth - place.clientWidth) / 2, (place.scrollHeight - place.clientHeight) / 2);
}
