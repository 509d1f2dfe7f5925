import type { XY } from "./drawing";

/** What is being chosen by a box. */
export function Box({ corners: [[ax, ay], [bx, by]] }: { corners: [XY, XY] }) {
  return (
    <rect
      className="choose-box"
      x={Math.min(ax, bx)}
      y={Math.min(ay, by)}
      width={Math.abs(ax - bx)}
      height={Math.abs(ay - by)}
    />
  );
}

/** Where the pointer is meant to be. */
export function Aim({ at: [x, y], held }: { at: XY; held: boolean }) {
  return <path className={`aim ${held ? "held" : ""}`} d={`M${x - 7} ${y}h14M${x} ${y - 7}v14`} />;
}

/** The plane's own zero with its two axes, of a fixed length on the screen. */
export function Axes({ origin, u, v }: { origin: XY; u: XY; v: XY }) {
  const arm = (to: XY): XY => {
    const long = Math.hypot(to[0] - origin[0], to[1] - origin[1]) || 1;
    return [origin[0] + ((to[0] - origin[0]) / long) * 34, origin[1] + ((to[1] - origin[1]) / long) * 34];
  };
  const [x, y] = [arm(u), arm(v)];
  return (
    <g className="sheet-axes">
      <path d={`M${x.join(" ")}L${origin.join(" ")}L${y.join(" ")}`} />
      <text x={x[0] + 4} y={x[1] + 4}>
        1st
      </text>
      <text x={y[0] + 4} y={y[1] - 2}>
        2nd
      </text>
    </g>
  );
}
