import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { api, got, type NamedValue, type Reading } from "../api/client";
import type { Dimension } from "../api/kinds";
import { freeName, type ReadingFacts, readingText } from "../desk/facts";
import { TakeList } from "../desk/TakeList";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { asValue, quantity, shownValue } from "../steps/stepValues";
import { ProblemNote } from "../ui/ProblemNote";
import { Stamp } from "../ui/Stamp";
import { ValueField } from "./ValueField";

/** Names that formulas use: values of the job's own, and readings; with what uses each. */
export function ValuesSheet() {
  const { job, edit } = useBench();
  const close = useTool((s) => s.close);
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
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}

function ValueRow({ value: v, usedBy: by }: { value: NamedValue; usedBy: string[] }) {
  const { job, unit, edit } = useBench();
  const found = job.build.result?.values?.[v.id];
  const trouble = job.build.result?.problems.find((p) => p.where?.value === v.name);
  const shown = shownValue(v.value, v.name, undefined, unit);
  return (
    <div className="named">
      <div className="value-line">
        <NameInput name={v.name} onCommit={(name) => void edit({ op: "set-value", id: v.id, name })} />
        <ValueField
          compact
          label={`Value of ${v.name}`}
          shown={{ ...shown, mark: found?.mark ?? v.value.mark ?? "assumed" }}
          of={{ own: v.name, dimension: (v.dimension ?? "length") as Dimension }}
          onCommit={(value) => value && void edit({ op: "set-value", id: v.id, value: asValue(value) })}
        />
        <Button
          size="small"
          type="text"
          aria-label={`Delete ${v.name}`}
          onClick={() => void edit({ op: "delete-value", id: v.id })}
        >
          ×
        </Button>
      </div>
      <div className="named-note">
        <span className="figures">{found ? `= ${quantity(found, unit)}` : ""}</span>
        <span>{by.length ? `used by ${by.join(", ")}` : "not used yet"}</span>
      </div>
      {trouble && <ProblemNote problem={trouble} />}
    </div>
  );
}

function ReadingRow({
  reading: r,
  facts: f,
  usedBy: by,
}: {
  reading: Reading;
  facts: ReadingFacts | undefined;
  usedBy: string[];
}) {
  const { unit, edit } = useBench();
  const takes = r.takes ?? [];
  const set = (part: Record<string, unknown>) => void edit({ op: "set-reading", id: r.id, ...part });
  return (
    <div className="named">
      <div className="value-line">
        <Stamp mark="caliper" />
        <NameInput name={r.name} onCommit={(name) => set({ name })} />
        <span className="figures reading-mean">{readingText(f, unit)}</span>
        <Button
          size="small"
          type="text"
          aria-label={`Delete ${r.name}`}
          onClick={() => void edit({ op: "delete-value", id: r.id })}
        >
          ×
        </Button>
      </div>
      <TakeList reading={r} facts={f} />
      <Input
        size="small"
        variant="borderless"
        aria-label={`Note on ${r.name}`}
        placeholder="where and how it was measured"
        defaultValue={r.note}
        onKeyDown={(e) => e.stopPropagation()}
        onBlur={(e) => e.target.value !== r.note && set({ note: e.target.value })}
      />
      <div className="named-note">
        <span>
          {takes.length} {takes.length === 1 ? "take" : "takes"}
        </span>
        <span>{by.length ? `used by ${by.join(", ")}` : "not used yet"}</span>
      </div>
    </div>
  );
}

function NameInput({ name, onCommit }: { name: string; onCommit: (name: string) => void }) {
  return (
    <Input
      key={name}
      size="small"
      className="name-input"
      aria-label={`Name ${name}`}
      defaultValue={name}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={(e) => e.target.value.trim() && e.target.value !== name && onCommit(e.target.value.trim())}
    />
  );
}

function NewValue() {
  const { edit } = useBench();
  const [name, setName] = useState("");
  const [text, setText] = useState("");
  const [dimension, setDimension] = useState<Dimension>("length");
  const add = async () => {
    if (!name.trim() || !text.trim()) return;
    const value = { text: text.trim(), mark: "assumed" as const, note: "" };
    if (await edit({ op: "set-value", id: crypto.randomUUID(), name: name.trim(), dimension, value })) {
      setName("");
      setText("");
    }
  };
  const enter = (e: React.KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === "Enter") void add();
  };
  return (
    <div className="value-line new-value">
      <Input
        size="small"
        aria-label="Name of a new value"
        placeholder="name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={enter}
      />
      <Input
        size="small"
        className="figure-input"
        aria-label="Formula of the new value"
        placeholder="figure or formula"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={enter}
      />
      <Select
        size="small"
        aria-label="What the new value is"
        value={dimension}
        onChange={setDimension}
        options={["length", "angle", "number"].map((d) => ({ value: d as Dimension, label: d }))}
      />
      <Button size="small" onClick={() => void add()}>
        Add
      </Button>
    </div>
  );
}
