import { Button, Input } from "antd";
import { useState } from "react";
import type { Picture, PictureOut } from "../api/client";
import { freeName } from "../desk/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { LengthInput } from "../ui/LengthInput";
import { driftOf, figureOf, KINDS, outlineMm } from "./marks";
import { type Point, usePhoto } from "./store";

interface Props {
  picture: Picture;
  facts: PictureOut | undefined;
  onReading: (mark: string, name: string) => Promise<boolean>;
}

/** What is measured in the picture, figure by figure; each can become a reading. */
export function MarkRows({ picture, facts, onReading }: Props) {
  const { job, unit, edit } = useBench();
  const { chosen, set } = usePhoto();
  const select = useTool((s) => s.select);
  const [name, setName] = useState("");
  const marks = (picture.marks ?? []).filter((m) => m.kind !== "stroke");
  const onPlace = async (points: Point[], mmPerPx: number, closed: boolean, bends: number[]) => {
    const id = crypto.randomUUID();
    const plane = job.recipe.steps.find((s) => s.kind === "region");
    const params = { points: outlineMm(points, mmPerPx), closed, bends, ...(plane ? { plane: { id: plane.id } } : {}) };
    if (await edit({ op: "add-step", id, kind: "traced", params })) select(id);
  };
  if (marks.length === 0) return <p className="quiet small">Nothing is measured in this picture yet.</p>;
  const taken = [...job.recipe.evidence, ...(job.recipe.values ?? [])].map((x) => x.name);
  return (
    <section className="desk-card" aria-label="Measured">
      <h2>Measured</h2>
      {marks.map((m) => {
        const f = facts?.marks.find((x) => x.id === m.id);
        const drift = f && driftOf(f, unit);
        const open = chosen === m.id;
        return (
          <div key={m.id} className={`mark-row${open ? " now" : ""}`}>
            <div className="value-line">
              <button
                type="button"
                className="link"
                aria-expanded={open}
                onClick={() => set({ chosen: open ? null : m.id })}
              >
                {m.name || KINDS[m.kind].title}
                {m.kind === "repeat" ? ` · ${m.count}` : ""}
              </button>
              <span className="figures mark-figure">{figureOf(m.kind, f, unit)}</span>
              <Button
                size="small"
                type="text"
                aria-label={`Take ${m.name || m.kind} away`}
                onClick={() => void edit({ op: "drop-mark", picture: picture.id, id: m.id })}
              >
                ×
              </Button>
            </div>
            {drift && (
              <p className={`small figures ${drift.far ? "above" : "quiet"}`}>
                {drift.far ? "▲ " : ""}
                {drift.text} against {m.step?.text}
                {drift.far ? ": the scale or the count is wrong, or that is not its pitch" : ""}
              </p>
            )}
            {f?.doubled && (
              <p className="above small">▲ Half the pitch explains it as well: is every second one missed?</p>
            )}
            {f?.alike !== null && f?.alike !== undefined && f.alike < 0.5 && (
              <p className="above small">▲ One of them is unlike the others: count again.</p>
            )}
            {f?.problem && <p className="above small">▲ {String(f.problem.message)}</p>}
            {open && m.kind === "repeat" && (
              <div className="value-line">
                <span className="quiet small">equal steps of</span>
                <LengthInput
                  label="Step the repeats are held against"
                  value={m.step?.text ?? ""}
                  placeholder="3 mm, or a name"
                  onCommit={(text) => {
                    const step = text.trim() ? { text: text.trim(), mark: "assumed" as const, note: "" } : null;
                    void edit({ op: "set-mark", picture: picture.id, mark: { ...m, step } });
                  }}
                />
              </div>
            )}
            {open && m.kind === "trace" && f && facts?.mm_per_px && (
              <Button
                size="small"
                onClick={() => void onPlace(f.points as Point[], facts.mm_per_px!, m.closed ?? false, m.bends ?? [])}
              >
                Place it on the part as a sketch
              </Button>
            )}
            {open && f?.value !== null && f?.dimension !== "number" && (
              <div className="value-line">
                <Input
                  size="small"
                  aria-label="Name of the new reading"
                  placeholder={freeName(taken)}
                  value={name}
                  onChange={(e) => setName(e.target.value)}
                  onKeyDown={(e) => e.stopPropagation()}
                />
                <Button
                  size="small"
                  onClick={() => void onReading(m.id, name.trim() || freeName(taken)).then((ok) => ok && setName(""))}
                >
                  Make it a reading
                </Button>
              </div>
            )}
          </div>
        );
      })}
    </section>
  );
}
