/** Filters that show one channel as grey, from unchanged codes. */
const ROWS = {
  red: "1 0 0 0 0",
  green: "0 1 0 0 0",
  blue: "0 0 1 0 0",
  alpha: "0 0 0 1 0",
};

export function Channels() {
  return (
    <svg width="0" height="0" className="absolute" aria-hidden>
      {Object.entries(ROWS).map(([name, row]) => (
        <filter key={name} id={`review-${name}`} colorInterpolationFilters="sRGB">
          <feColorMatrix values={`${row} ${row} ${row} 0 0 0 0 1`} />
        </filter>
      ))}
    </svg>
  );
}
