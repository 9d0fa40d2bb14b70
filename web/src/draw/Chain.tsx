type Props = {
  pins: number[];
  y: number;
  outerFirst?: boolean; // the first link is an outer one
  fadedFrom?: number; // links from this index on are not there for long
};

/** Links in a row, inner and outer by turns. */
export function Chain({ pins, y, outerFirst = true, fadedFrom = Number.POSITIVE_INFINITY }: Props) {
  const pitch = (pins[1] ?? 0) - (pins[0] ?? 0);
  const half = Math.min(pitch * 0.34, 8);
  return (
    <g>
      {pins.slice(0, -1).map((x, i) => {
        const outer = (i % 2 === 0) === outerFirst;
        const h = outer ? half : half * 0.82;
        const waist = h * 0.62;
        const to = x + pitch;
        const mid = (x + to) / 2;
        return (
          <path
            // biome-ignore lint/suspicious/noArrayIndexKey: a link is its place in the chain
            key={i}
            d={`M${x} ${y - h}A${h} ${h} 0 0 0 ${x} ${y + h}Q${mid} ${y + waist * 0.75} ${to} ${y + h}A${h} ${h} 0 0 0 ${to} ${y - h}Q${mid} ${y - waist * 0.75} ${x} ${y - h}Z`}
            className={outer ? "fill-steel-dark stroke-pin" : "fill-steel stroke-steel-dark"}
            strokeWidth="0.8"
            opacity={i < fadedFrom ? 1 : 0.35}
          />
        );
      })}
      {pins.map((x, i) => (
        <circle
          // biome-ignore lint/suspicious/noArrayIndexKey: a pin is its place in the chain
          key={i}
          cx={x}
          cy={y}
          r={half * 0.34}
          className="fill-base-200 stroke-pin"
          strokeWidth="0.9"
          opacity={i <= fadedFrom ? 1 : 0.4}
        />
      ))}
    </g>
  );
}
