import { DeleteOutlined } from "@ant-design/icons";
import { Button } from "antd";
import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { inU } from "../desk/facts";
import { useBench } from "../job/context";
import { shownValue, type Typed } from "../steps/stepValues";
import { ValueField } from "../values/ValueField";
import { usePointed } from "../view/pointed";
import { groupTitle } from "./facts";

export interface Agreed {
  kind: string;
  members: number[];
  size: Typed | null;
  angle: Typed | null;
  text: string;
  measured: number | null;
  u: number | null;
}

interface Props {
  step: string | null;
  params: Record<string, unknown>;
  state: StepState | undefined;
  onChange: (part: Record<string, unknown>) => void;
}

/** What was agreed between the regions: each with its value, what was measured before, and what it costs now. */
export function IntentForm({ step, params, state, onChange }: Props) {
  const { job, unit } = useBench();
  const set = usePointed((s) => s.set);
  const relations = params.relations as Agreed[];
  const regions = params.regions as { id: string }[];
  const name = (k: number) => job.recipe.steps.find((s) => s.id === regions[k]?.id)?.name ?? "?";
  const rows = factsOf(state?.facts, "intent")?.rows ?? [];
  const put = (i: number, part: Partial<Agreed> | null) =>
    onChange({
      relations: part
        ? relations.map((r, k) => (k === i ? { ...r, ...part } : r))
        : relations.filter((_, k) => k !== i),
    });
  return (
    <div className="intent-rows">
      <p className="quiet">
        {regions.length} regions are fitted together under this. Steps below use them as they are here, under their own
        names.
      </p>
      {relations.map((r, i) => {
        const cost = rows[i]?.cost;
        const { text, far } = inU(cost ?? 0);
        const part = r.size ? "size" : r.angle ? "angle" : null;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: relations have no other name
          <div key={i} className="intent-row">
            <div className="measure-head">
              <span className="grow">{groupTitle(r.kind)}</span>
              {cost !== undefined && (
                <span className={`figures ${far ? "above" : "quiet"}`} title="the farthest a region moved for it">
                  {text.replace("+", "")}
                </span>
              )}
              <Button
                size="small"
                type="text"
                icon={<DeleteOutlined />}
                aria-label={`Take back: ${r.text}`}
                title={relations.length > 1 ? "take it back" : "delete the step to take the last one back"}
                disabled={relations.length === 1}
                onClick={() => put(i, null)}
              />
            </div>
            {part && (
              <ValueField
                label={r.text || r.kind}
                shown={shownValue(r[part], `relations[${i}].${part}`, state, unit)}
                of={{
                  kind: "intent",
                  params,
                  place: `relations[${i}].${part}`,
                  own: step,
                  dimension: part === "angle" ? "angle" : "length",
                }}
                onCommit={(v) => v && put(i, { [part]: v })}
              />
            )}
            <button
              type="button"
              className="intent-members quiet small"
              title="show where"
              onClick={() => {
                const first = job.build.result?.steps.find((s) => s.id === regions[r.members[0]!]?.id);
                const at = factsOf(first?.facts, "region")?.middle;
                set({ marked: at ? { point: at, size: 8, facets: [] } : null });
              }}
            >
              {r.members.length > 5
                ? `${r.members.slice(0, 4).map(name).join(", ")} and ${r.members.length - 4} more`
                : r.members.map(name).join(", ")}
            </button>
          </div>
        );
      })}
    </div>
  );
}
