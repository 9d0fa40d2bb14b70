/** A loop of chain with the places to read; place 1 is beside the joining link. */
export function Loop(props: {
  places: { number: number; state: "empty" | "read" | "fault" }[];
  at: number; // the place being read
  choose: (place: number) => void;
}) {
  const width = 256;
  const height = 104;
  const [cx, cy, rx, ry] = [width / 2, height / 2, 100, 34];
  const on = (turn: number) => {
    const a = -Math.PI / 2 + turn * 2 * Math.PI;
    return { x: cx + rx * Math.cos(a), y: cy + ry * Math.sin(a) };
  };
  const joint = on(0.965);
  return (
    // biome-ignore lint/a11y/useSemanticElements: an svg cannot be a fieldset
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="h-auto w-full max-w-[300px]"
      role="group"
      aria-label="Places round the chain"
    >
      {Array.from({ length: 50 }, (_, i) => on(i / 50)).map((p) => (
        <circle key={`${p.x},${p.y}`} cx={p.x} cy={p.y} r="3" className="fill-steel" />
      ))}
      <rect
        x={joint.x - 7}
        y={joint.y - 4}
        width="14"
        height="8"
        rx="4"
        className="fill-base-100 stroke-steel-dark"
        strokeWidth="2"
      >
        <title>joining link</title>
      </rect>
      {props.places.map((p, i) => {
        const c = on(i / props.places.length);
        const here = p.number === props.at;
        const look = here
          ? "fill-accent stroke-neutral"
          : p.state === "fault"
            ? "fill-base-100 stroke-error"
            : "fill-base-100 stroke-base-content";
        return (
          // biome-ignore lint/a11y/useSemanticElements: an svg cannot hold a button
          <g
            key={p.number}
            role="button"
            tabIndex={0}
            aria-pressed={here}
            aria-label={`Place ${p.number}, ${p.state === "empty" ? "not read" : p.state === "read" ? "read" : "not understood"}`}
            onClick={() => props.choose(p.number)}
            onKeyDown={(e) => {
              if (e.key !== "Enter" && e.key !== " ") return;
              e.preventDefault();
              props.choose(p.number);
            }}
            className="cursor-pointer"
          >
            <circle cx={c.x} cy={c.y} r="24" fill="transparent" />
            <circle
              cx={c.x}
              cy={c.y}
              r="14.5"
              className={look}
              strokeWidth="2"
              strokeDasharray={p.state === "empty" && !here ? "4 3" : undefined}
            />
            <text
              x={c.x}
              y={c.y + 5}
              fontSize="15"
              fontWeight="650"
              textAnchor="middle"
              className={`font-mono ${here ? "fill-accent-content" : p.state === "fault" ? "fill-error" : "fill-base-content"}`}
            >
              {p.number}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
