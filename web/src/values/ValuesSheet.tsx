import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { api, got, type Reading } from "../api/client";
import { freeName } from "../desk/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { NewValue } from "./NewValue";
import { ReadingRow } from "./ReadingRow";
import { ValueRow } from "./ValueRow";

/** Names that formulas use: values of the job's own, and readings; with what uses each. */
export function ValuesSheet() {
  const { job, edit } = useBench();
  const { close, open } = useTool();
  const path = { job_id: job.id };
  const { data: uses = [] } = useQuery({
    queryKey: ["uses", job.id, job.revision],
    queryFn: () => got(api.GET("/api/jobs/{job_id}/uses", { params: { path } })),
  });
  const usedBy = (name: string) => {
    const steps = job.recipe.steps
      .filter((s) => uses.some((u) => u.name === name && u.step === s.id))
      .map((s) => s.name);
    const values = uses.filter((u) => u.name === name && !u.step).map((u) => u.place);
    return [...steps, ...values];
  };
  const { values, evidence } = job.recipe;
  const readings = evidence.filter((e): e is Reading => e.kind === "reading");
  const facts = job.readings;
  return (
    <section className="sheet wide-sheet" aria-label="Values">
      <h2>Named values</h2>
      <p className="quiet">
        Formulas use these by name, and the values of steps as <code>base_plate.distance</code>. Renaming one changes
        every formula with it.
      </p>
      {values?.map((v) => (
        <ValueRow key={v.id} value={v} usedBy={usedBy(v.name)} />
      ))}
      <NewValue />
      <h2 className="gap">Readings</h2>
      {readings.length === 0 && (
        <p className="quiet">
          None yet. Read the caliper several times: the spread tells how far the mean can be trusted.
        </p>
      )}
      {readings.map((r) => (
        <ReadingRow key={r.id} reading={r} facts={facts[r.id]} usedBy={usedBy(r.name)} />
      ))}
      <Button
        size="small"
        onClick={() => {
          const name = freeName([...readings, ...(values ?? [])].map((x) => x.name));
          void edit({ op: "set-reading", id: crypto.randomUUID(), name, takes: [] });
        }}
      >
        Add a reading
      </Button>
      <div className="sheet-actions">
        <Button onClick={() => open("variants")}>Variants …</Button>
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
