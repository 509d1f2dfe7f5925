import { useEffect, useRef, useState } from "react";
import type { Picture, PictureOut } from "../api/client";
import { isReading, readingText } from "../desk/facts";
import { useBench } from "../job/context";
import { pictureAddress } from "./address";
import { MarkLines } from "./MarkLines";
import { outlinePath } from "./marks";
import { type Box, type Point, usePhoto } from "./store";

interface Props {
  picture: Picture;
  facts: PictureOut | undefined;
  onPoint: (at: Point) => void;
  onStroke: (points: Point[]) => void;
}

/** The picture with what is marked in it. Wheel to look closer, drag to move; a click is a point of the tool in use. */
export function PictureView({ picture, facts, onPoint, onStroke }: Props) {
  const { job, unit } = useBench();
  const { tool, points, bends, box, set } = usePhoto();
  const setBox = (next: Box | null) => set({ box: next });
  const svg = useRef<SVGSVGElement>(null);
  const raw = tool === "corners";
  const [wide, high] = raw ? [picture.width, picture.height] : (facts?.size ?? [picture.width, picture.height]);
  const crop = raw ? null : picture.crop;
  const whole = crop ? { x: crop[0], y: crop[1], w: crop[2], h: crop[3] } : { x: 0, y: 0, w: wide, h: high };
  const held = useRef<{ at: Point; box: Box; moved: boolean; corner: number | null } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another picture, or the same one seen otherwise, starts whole
  useEffect(() => setBox(null), [picture.id, wide, high, crop?.join()]);
  const shown = box ?? whole;
  const address = pictureAddress(job.id, picture, raw);
  const [loaded, setLoaded] = useState("");
  const place = (e: { clientX: number; clientY: number }): Point => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    return [p.x, p.y];
  };
  const zoom = (e: React.WheelEvent) => {
    const [x, y] = place(e);
    const k = e.deltaY > 0 ? 1.2 : 1 / 1.2;
    const w = Math.min(Math.max(shown.w * k, 40), wide * 1.5);
    const f = w / shown.w;
    setBox({ x: x - (x - shown.x) * f, y: y - (y - shown.y) * f, w, h: shown.h * f });
  };
  const unitPx = shown.w / 900;
  const facts_ = job.readings;
  const readings = job.recipe.evidence.filter(isReading);
  return (
    <svg
      ref={svg}
      className={`picture${tool === "look" ? "" : " drawing"}`}
      viewBox={`${shown.x} ${shown.y} ${shown.w} ${shown.h}`}
      role="application"
      aria-label={`Picture ${picture.name}`}
      data-size={`${wide},${high}`}
      onWheel={zoom}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        const at = place(e);
        const near = raw ? points.findIndex((p) => Math.hypot(p[0] - at[0], p[1] - at[1]) < 14 * unitPx) : -1;
        held.current = { at, box: shown, moved: false, corner: near >= 0 ? near : null };
        if (tool === "stroke") set({ points: [at] });
      }}
      onPointerMove={(e) => {
        const h = held.current;
        if (!h) return;
        const at = place(e);
        if (tool === "stroke") {
          h.moved = true;
          const last = points.at(-1);
          if (!last || Math.hypot(at[0] - last[0], at[1] - last[1]) > 4 * unitPx)
            set({ points: [...points, at].slice(0, 500) });
          return;
        }
        if (h.corner !== null) {
          h.moved = true;
          set({ points: points.map((p, k) => (k === h.corner ? at : p)) });
          return;
        }
        if (!h.moved && Math.hypot(at[0] - h.at[0], at[1] - h.at[1]) < 4 * unitPx) return;
        h.moved = true;
        setBox({ ...shown, x: shown.x - (at[0] - h.at[0]), y: shown.y - (at[1] - h.at[1]) });
      }}
      onPointerUp={(e) => {
        const h = held.current;
        held.current = null;
        if (tool === "stroke" && points.length > 1) onStroke(points);
        if (h && !h.moved && tool !== "look" && tool !== "stroke") onPoint(place(e));
      }}
    >
      <image
        key={address}
        href={address}
        onLoad={() => setLoaded(address)}
        width={wide}
        height={high}
        style={{ filter: `contrast(${picture.contrast ?? 1})` }}
      />
      {loaded !== address && (
        <text x={shown.x + shown.w / 2} y={shown.y + 60 * unitPx} textAnchor="middle" style={{ fontSize: 14 * unitPx }}>
          {raw ? "fetching the picture …" : "straightening the picture …"}
        </text>
      )}
      {!raw && facts && <MarkLines picture={picture} facts={facts} scale={unitPx} />}
      {!raw &&
        facts?.pins.map((pin) => {
          const r = readings.find((x) => x.id === pin.reading);
          return r ? (
            <g
              key={pin.reading}
              className="picture-pin"
              transform={`translate(${pin.at[0]} ${pin.at[1]}) scale(${unitPx})`}
            >
              <circle r="4" />
              <text x={pin.at[0] > 0.72 * wide ? -8 : 8} y="-6" textAnchor={pin.at[0] > 0.72 * wide ? "end" : "start"}>
                {r.name} {readingText(facts_[r.id], unit)}
              </text>
            </g>
          ) : null;
        })}
      {raw && points.length === 4 && (
        <polygon className="corner-frame" points={points.join(" ")} strokeWidth={1.5 * unitPx} />
      )}
      {tool === "trace" && (
        <path className="pen-stroke" d={outlinePath(points, bends, false)} strokeWidth={2 * unitPx} />
      )}
      {tool === "stroke" && <polyline className="pen-stroke" points={points.join(" ")} strokeWidth={2.5 * unitPx} />}
      {(tool === "stroke" ? [] : points).map((p, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: points are told apart by their order
        <g key={k} className="picked-point" transform={`translate(${p[0]} ${p[1]}) scale(${unitPx})`}>
          <circle r={raw ? 9 : 4} />
          <path d="M-14 0H-3M3 0H14M0-14V-3M0 3V14" />
          {raw && (
            <text x="12" y="-10">
              {["upper left", "upper right", "lower right", "lower left"][k]}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
