import type { Picture, PictureOut } from "../api/client";
import { useBench } from "../job/context";
import { figureOf, outlinePath } from "./marks";
import { type Point, usePhoto } from "./store";

interface Props {
  picture: Picture;
  facts: PictureOut;
  /** Flat pixels of one shown pixel, so that lines and type stay the same size. */
  scale: number;
}

/** The scale, its check, and every mark, drawn where they were measured. */
export function MarkLines({ picture, facts, scale }: Props) {
  const { unit } = useBench();
  const chosen = usePhoto((s) => s.chosen);
  const wide = 1.8 * scale;
  const label = (at: number[], text: string, key: string) => (
    <text key={key} className="mark-label" transform={`translate(${at[0]} ${at[1]}) scale(${scale})`} x="7" y="-7">
      {text}
    </text>
  );
  const line = (kind: "scale" | "check", p: number[][]) =>
    p.length === 2 && (
      <g className={`known-line ${kind}`} key={kind}>
        <polyline
          points={p.join(" ")}
          strokeWidth={wide}
          strokeDasharray={kind === "check" ? `${7 * scale} ${4 * scale}` : undefined}
        />
        {label(p[0]!, picture[kind]?.length.text ?? "", `${kind}-text`)}
      </g>
    );
  return (
    <g className="marks">
      {line("scale", facts.scale_line)}
      {line("check", facts.check_line)}
      {(picture.marks ?? []).map((m) => {
        const f = facts.marks.find((x) => x.id === m.id);
        if (!f) return null;
        const p = f.points;
        if (m.kind === "stroke")
          return <polyline key={m.id} className="pen-stroke" points={p.join(" ")} strokeWidth={1.4 * wide} />;
        const text = figureOf(m.kind, f, unit);
        return (
          <g key={m.id} className={`mark mark-${m.kind}${chosen === m.id ? " now" : ""}`} strokeWidth={wide}>
            {m.kind === "circle" && (
              <circle cx={p[0]![0]} cy={p[0]![1]} r={Math.hypot(p[1]![0] - p[0]![0], p[1]![1] - p[0]![1])} />
            )}
            {m.kind === "angle" && <polyline points={[p[1], p[0], p[2]].join(" ")} />}
            {m.kind === "trace" && <path d={outlinePath(p as Point[], m.bends ?? [], m.closed ?? false)} />}
            {(m.kind === "distance" || m.kind === "repeat") && <polyline points={p.join(" ")} />}
            {(m.kind === "repeat" ? f.found : m.kind === "count" ? p : []).map((q, k) => (
              <g key={q.join()} transform={`translate(${q[0]} ${q[1]}) scale(${scale})`}>
                <path d="M0 -9 V9" strokeWidth="1.8" />
                <text className="mark-number" x="0" y="20">
                  {k + 1}
                </text>
              </g>
            ))}
            {label(p[0]!, `${m.name ? `${m.name}: ` : ""}${text}`, "text")}
          </g>
        );
      })}
    </g>
  );
}
