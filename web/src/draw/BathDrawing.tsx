/** A standing bath: as full as the points it still bears, with a mark for each; cloudy while it settles. */
export function BathDrawing(props: { left: number; points: number; settles: boolean }) {
  const { left, points, settles } = props;
  const height = 96;
  const level = points > 0 ? (height - 8) * (left / points) : 0;
  const marks = points <= 12 ? points : 4;
  return (
    <svg
      width="72"
      height={height + 6}
      viewBox={`0 0 72 ${height + 6}`}
      role="img"
      aria-label={`${left} of ${points} left`}
      className="shrink-0"
    >
      <rect x="4" y={height - level} width="64" height={level} className={settles ? "fill-steel" : "fill-info/40"} />
      <path
        d={`M3 4V${height - 6}a8 8 0 0 0 8 8H61a8 8 0 0 0 8 -8V4`}
        fill="none"
        className={left === 0 ? "stroke-error" : "stroke-steel-dark"}
        strokeWidth="3"
        strokeLinecap="round"
      />
      {Array.from({ length: Math.max(marks - 1, 0) }, (_, i) => height - ((height - 8) * (i + 1)) / marks).map((y) => (
        <line key={y} x1="54" x2="66" y1={y} y2={y} className="stroke-base-content" strokeWidth="1.5" />
      ))}
    </svg>
  );
}
