import { Button, Input, InputNumber, Popconfirm, Select } from "antd";
import { useState } from "react";
import type { Desk, Reading, SetReading } from "../api/client";
import { useBench } from "../job/context";
import { useArmed } from "../pick/armed";
import { useTool } from "../sheets/tool";
import { rawPoint } from "../view/pose";
import { bare, isReading, ownUnit, parts, type ReadingFacts } from "./facts";
import { MeantAs } from "./MeantAs";
import { MethodRows } from "./MethodRows";
import { TakeList } from "./TakeList";
import { useFocus } from "./useDesk";

const MEASURES = ["outside", "inside", "depth", "step", "height", "span", "other"];

interface Props {
  reading: Reading;
  facts: ReadingFacts | undefined;
  desk: Desk | undefined;
}

/** The reading in focus: its takes, how they were made, what it is tied to, and what it may stand for. */
export function ReadingSheet({ reading: r, facts, desk }: Props) {
  const { job, unit, edit, scanId, scanKey, pose } = useBench();
  const open = useTool((s) => s.open);
  const arm = useArmed((s) => s.arm);
  const setFocus = useFocus((s) => s.set);
  const [name, setName] = useState(r.name);
  const set = (part: Partial<SetReading>) => void edit({ op: "set-reading", id: r.id, ...part });
  const regions = job.recipe.steps.filter((s) => s.kind === "region");
  const own = ownUnit(facts, unit);
  const others = job.recipe.evidence.filter(isReading).filter((x) => x.id !== r.id);
  const keep = (e: React.KeyboardEvent) => e.stopPropagation();
  const pin = () => {
    open(null);
    arm({
      hint: `Click where ${r.name} was measured`,
      onFacet: (_, at) => {
        arm(null);
        set({ pin: { on: scanId, at: rawPoint(pose, at) } });
        open("desk");
      },
    });
  };
  return (
    <section className="desk-card" aria-label={`Reading ${r.name}`}>
      <div className="value-line">
        <Input
          size="small"
          className="name-input"
          aria-label="Name of the reading"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            keep(e);
            if (e.key === "Enter") e.currentTarget.blur();
          }}
          onBlur={() => name.trim() && name !== r.name && set({ name: name.trim() })}
        />
        <Select
          size="small"
          aria-label="What it measures"
          value={r.measures ?? "other"}
          options={MEASURES.map((m) => ({ value: m, label: m }))}
          onChange={(measures) => set({ measures })}
        />
        {r.measures === "span" && (
          <InputNumber
            size="small"
            aria-label="Gaps of the span"
            min={1}
            max={10000}
            prefix="over"
            value={r.over ?? 1}
            onKeyDown={keep}
            onChange={(over) => over && set({ over })}
          />
        )}
        <Popconfirm
          title={`Delete ${r.name}?`}
          description="Undo brings it back."
          onConfirm={() => {
            setFocus({ reading: null });
            void edit({ op: "delete-value", id: r.id });
          }}
        >
          <Button size="small" type="text" aria-label={`Delete ${r.name}`}>
            ×
          </Button>
        </Popconfirm>
      </div>
      <TakeList reading={r} facts={facts} />
      <MethodRows facts={facts} />
      {facts && (
        <p className="quiet small figures">
          {facts.u === null
            ? "One take says nothing of its own spread: take another."
            : `u ${bare(facts.u, own, 2)}: ${parts(facts)
                .map((p) => `${p.what} ${bare(p.u, own, 2)}`)
                .join(", ")}`}
        </p>
      )}
      <Input
        size="small"
        variant="borderless"
        aria-label={`Note on ${r.name}`}
        placeholder="where and how it is measured"
        defaultValue={r.note ?? ""}
        onKeyDown={keep}
        onBlur={(e) => e.target.value !== (r.note ?? "") && set({ note: e.target.value })}
      />
      <div className="value-line">
        <Select
          size="small"
          className="wide"
          mode="multiple"
          maxCount={2}
          allowClear
          aria-label="Regions it measures"
          placeholder={
            regions.length ? "tie to one hole, or to two planes or axes" : "no regions on the scan to tie it to"
          }
          value={r.feature?.regions ?? []}
          options={regions.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(ids: string[]) => set(ids.length ? { feature: { regions: ids } } : { untie: true })}
        />
        {scanKey && (
          <Button size="small" onClick={r.pin ? () => set({ unpin: true }) : pin}>
            {r.pin ? "Unpin" : "Pin on the scan"}
          </Button>
        )}
      </div>
      {others.length > 0 && (
        <Select
          size="small"
          className="wide"
          allowClear
          aria-label="Another reading of the same size"
          placeholder="the same size as another reading (drawing, photo, another caliper)"
          value={r.same_as ?? null}
          options={others.map((x) => ({ value: x.id, label: `same size as ${x.name}` }))}
          onChange={(id: string | undefined) => set(id ? { same_as: id } : { unlink: true })}
        />
      )}
      <MeantAs reading={r} facts={facts} near={desk?.standards[r.id] ?? []} />
    </section>
  );
}
