import { Button, Input, Select } from "antd";
import { useState } from "react";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { quantity } from "../steps/stepValues";
import { LengthInput } from "../ui/LengthInput";
import { ResultRows } from "./ResultRows";
import { placeOf, rowsOf, settable, withSetting } from "./settable";
import { useSideBySide } from "./useSideBySide";
import { VariantHead } from "./VariantHead";
import "./variants.css";

/** The job beside variants of it: what each has otherwise, and what comes of it. */
export function VariantsSheet() {
  const { job, unit, edit } = useBench();
  const kinds = useKinds();
  const close = useTool((s) => s.close);
  const [added, setAdded] = useState<string[]>([]);
  const [name, setName] = useState("");
  const { columns, stale, busy, build, look, shown } = useSideBySide();
  const variants = job.recipe.variants ?? [];
  const all = settable(job.recipe, kinds);
  const rows = rowsOf(variants, all, added);
  const add = async () => {
    const called = name.trim() || `Variant ${variants.length + 1}`;
    if (await edit({ op: "put-variant", id: crypto.randomUUID(), name: called })) setName("");
  };
  const means = (id: string, place: string) => {
    const found = columns.find((c) => c.id === id)?.values?.[place];
    return found && !stale ? `= ${quantity(found, unit)}` : "";
  };
  return (
    <section className="sheet wide-sheet" aria-label="Variants">
      <h2>Variants</h2>
      <p className="quiet">
        A variant is the job with a few values of its own: as worn, as new, with an oversize. All are built and held
        against the scan; the job stays as it is unless you take one.
      </p>
      <div className="value-line">
        <Input
          aria-label="Name of a new variant"
          placeholder={`Variant ${variants.length + 1}`}
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") void add();
          }}
        />
        <Button type={variants.length ? "default" : "primary"} onClick={() => void add()}>
          Add a variant
        </Button>
      </div>
      {variants.length > 0 && (
        <>
          <div className="variant-scroll">
            <table className="variants">
              <thead>
                <tr>
                  <td />
                  <th scope="col">As it stands</th>
                  {variants.map((v) => (
                    <VariantHead key={v.id} variant={v} shown={shown} onLook={(id) => void look(id)} />
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <tr key={placeOf(row)}>
                    <th scope="row">{row.label}</th>
                    <td className="figures">
                      {row.text || "its own"}
                      <div className="quiet small">{means("", placeOf(row))}</div>
                    </td>
                    {variants.map((v) => (
                      <td key={v.id}>
                        <LengthInput
                          label={`${row.label} in ${v.name}`}
                          value={v.settings?.find((s) => placeOf(s) === placeOf(row))?.value.text ?? ""}
                          placeholder={row.text || "its own"}
                          onCommit={(text) =>
                            void edit({
                              op: "put-variant",
                              id: v.id,
                              settings: withSetting(v.settings ?? [], row, text),
                            })
                          }
                        />
                        <div className="quiet small figures">{means(v.id, placeOf(row))}</div>
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
              {columns.length > 0 && !stale && (
                <ResultRows columns={columns} ids={["", ...variants.map((v) => v.id)]} />
              )}
            </table>
          </div>
          <Select
            className="wide"
            showSearch={{ optionFilterProp: "label" }}
            aria-label="Another value to set"
            placeholder={rows.length ? "Another value to set …" : "Choose a value that the variants set otherwise …"}
            value={null}
            options={all
              .filter((s) => !rows.some((r) => placeOf(r) === placeOf(s)))
              .map((s) => ({ value: placeOf(s), label: s.text ? `${s.label} (${s.text})` : s.label }))}
            onChange={(p: string | null) => p && setAdded([...added, p])}
          />
          {stale && <p className="quiet small">The job has changed since these were built: build them again.</p>}
        </>
      )}
      <div className="sheet-actions">
        {variants.length > 0 && (
          <Button type="primary" loading={busy} onClick={() => void build()}>
            Build them side by side
          </Button>
        )}
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
