import type { Schemas } from "../../../../api/client";
import { NumberEntry } from "../../../../parts/entries/NumberEntry";

interface DialProps {
  dial: Schemas["DialBody"];
  driven: boolean;
  value: number;
  onTurn: (value: number) => void;
  onReset: () => void;
}

/** A dial with its typed value and its slider. */
export function DialRow({ dial, driven, value, onTurn, onReset }: DialProps) {
  const step = (dial.high - dial.low) / 200;
  return (
    <div className="mb-2.5">
      <div className="flex items-center gap-2 text-small">
        <span className="min-w-0 flex-1 truncate font-semibold" title={dial.about}>
          {dial.name}
        </span>
        {driven ? (
          <span className="quiet text-note">driven by a lane</span>
        ) : (
          <>
            {value !== dial.default && (
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                title={`Back to ${dial.default}`}
                onClick={onReset}
              >
                reset
              </button>
            )}
            <NumberEntry
              label={dial.name}
              value={value}
              min={dial.low}
              max={dial.high}
              step={step}
              width="4.6rem"
              onCommit={onTurn}
            />
            <span className="quiet w-16 truncate text-note">{dial.unit}</span>
          </>
        )}
      </div>
      {!driven && (
        <input
          key={value}
          type="range"
          className="range range-primary range-xs mt-1 w-full"
          aria-label={`${dial.name}, slider`}
          min={dial.low}
          max={dial.high}
          step={step}
          defaultValue={value}
          onPointerUp={(event) => onTurn(Number(event.currentTarget.value))}
          onKeyUp={(event) => onTurn(Number(event.currentTarget.value))}
        />
      )}
      <p className="quiet text-note leading-snug">{dial.about}</p>
    </div>
  );
}
