/** A bike's tag: stamped metal with a hole, the same everywhere. */
export function Tag({ tag, size = "small" }: { tag: string; size?: "small" | "middle" | "large" }) {
  const { height, text } = {
    small: { height: 26, text: 15 },
    middle: { height: 34, text: 20 },
    large: { height: 46, text: 26 },
  }[size];
  const width = height * 0.95 + text * 0.625 * tag.length;
  const corner = height * 0.24;
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`Tag ${tag}`}
      className="inline-block shrink-0 align-middle"
    >
      <path
        d={`M${corner} 0H${width - 4}a4 4 0 0 1 4 4V${height - 4}a4 4 0 0 1 -4 4H${corner}L0 ${height - corner}V${corner}Z`}
        className="fill-accent"
      />
      <circle cx={height * 0.36} cy={height / 2} r={height * 0.12} className="fill-accent-content" />
      <text
        x={height * 0.68}
        y={height / 2 + text * 0.35}
        fontSize={text}
        className="fill-accent-content font-mono"
        fontWeight={650}
      >
        {tag}
      </text>
    </svg>
  );
}
