import { useMutation } from "@tanstack/react-query";
import { Button, Checkbox, InputNumber, Select } from "antd";
import { useState } from "react";
import { api, got, type Reading } from "../api/client";
import { useBench } from "../job/context";
import { length } from "../units";
import { bare, type ReadingFacts } from "./facts";

interface Row {
  key: string;
  reading: string;
  model: number | null;
  inside: boolean;
}

interface Props {
  readings: Reading[];
  facts: Record<string, ReadingFacts>;
}

/** The first part that was made, measured again: what its making adds, offered as named values. */
export function MadeAgain({ readings, facts }: Props) {
  const { job, unit, edit, tell } = useBench();
  const [rows, setRows] = useState<Row[]>([]);
  const sizes = readings.filter((r) => facts[r.id]?.dimension === "length");
  const { mutate, data, reset } = useMutation({
    mutationFn: () =>
      got(
        api.POST("/api/jobs/{job_id}/made-again", {
          params: { path: { job_id: job.id } },
          body: rows
            .filter((r) => r.model !== null)
            .map(({ reading, model, inside }) => ({ reading, model: model!, inside })),
        }),
      ),
    onError: tell,
  });
  const change = (key: string, part: Partial<Row>) => {
    reset();
    setRows(rows.map((r) => (r.key === key ? { ...r, ...part } : r)));
  };
  const add = () => {
    const next = sizes.find((s) => !rows.some((r) => r.reading === s.id)) ?? sizes[0];
    if (!next) return;
    reset();
    const model = Number((facts[next.id]?.mean ?? 0).toFixed(1));
    setRows([...rows, { key: crypto.randomUUID(), reading: next.id, model, inside: next.measures === "inside" }]);
  };
  const keep = async () => {
    if (!data) return;
    const found: [string, number | null, "length" | "number"][] = [
      ["made_scale", data.scale, "number"],
      ["made_outside", data.outside, "length"],
      ["made_inside", data.inside, "length"],
    ];
    for (const [name, value, dimension] of found) {
      if (value === null) continue;
      const old = (job.recipe.values ?? []).find((v) => v.name === name);
      const text = dimension === "number" ? value.toFixed(6) : `${Number(value.toFixed(4))} mm`;
      const note = `from ${data.pairs} sizes of a made part`;
      const body = { op: "set-value" as const, id: old?.id ?? crypto.randomUUID(), name, dimension, note };
      if (!(await edit({ ...body, value: { text, mark: "caliper", note } }))) return;
    }
  };
  return (
    <section className="desk-part" aria-label="Made part">
      <div className="desk-part-head">
        <h2>The first part made, measured again</h2>
        <Button size="small" type="text" disabled={sizes.length === 0} onClick={add}>
          Add a size
        </Button>
      </div>
      {rows.length === 0 && (
        <p className="quiet">
          Readings of a first print or first-off beside the model's sizes say what its making adds.
        </p>
      )}
      {rows.map((r) => (
        <div className="value-line made-row" key={r.key}>
          <Select
            size="small"
            aria-label="Reading of the made part"
            value={r.reading}
            options={sizes.map((s) => ({ value: s.id, label: s.name }))}
            onChange={(reading) => change(r.key, { reading })}
          />
          <span className="figures">{bare(facts[r.reading]?.mean, unit)}</span>
          <span className="quiet">model</span>
          <InputNumber
            size="small"
            aria-label="Size in the model"
            suffix="mm"
            value={r.model}
            onKeyDown={(e) => e.stopPropagation()}
            onChange={(model) => change(r.key, { model })}
          />
          <Checkbox checked={r.inside} onChange={(e) => change(r.key, { inside: e.target.checked })}>
            inside
          </Checkbox>
          <Button
            size="small"
            type="text"
            aria-label="Take this size out"
            onClick={() => {
              reset();
              setRows(rows.filter((x) => x.key !== r.key));
            }}
          >
            ×
          </Button>
        </div>
      ))}
      {rows.length > 0 && !data && (
        <Button size="small" onClick={() => mutate()}>
          What did making add?
        </Button>
      )}
      {data && (
        <div className="value-line">
          <span className="figures">
            {data.u_scale > 0 && `scale ${data.scale.toFixed(4)} ± ${(2 * data.u_scale).toFixed(4)} · `}
            {data.outside !== null &&
              `outside ${length(data.outside, unit, 1)} ± ${bare(2 * (data.u_outside ?? 0), unit)} · `}
            {data.inside !== null &&
              `inside ${length(data.inside, unit, 1)} ± ${bare(2 * (data.u_inside ?? 0), unit)} · `}
            left over {length(data.rms, unit, 1)}
          </span>
          <Button size="small" onClick={() => void keep()}>
            Keep as named values
          </Button>
        </div>
      )}
    </section>
  );
}
