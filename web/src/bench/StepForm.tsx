import { Button, Checkbox, Input, Segmented, Select } from "antd";
import { Fragment, type ReactNode } from "react";
import type { StepState } from "../api/build";
import { type Field, isShown, useDeclarations } from "../api/kinds";
import { PlaceField, SpotField } from "../construct/PlaceField";
import type { Spot } from "../construct/usePickPlace";
import { PartsField } from "../pick/PartsField";
import { useBench } from "./context";
import { RowsField } from "./RowsField";
import { faceRef, shownValue, type Typed } from "./stepValues";
import { useArmed } from "./stores";
import { ValueField } from "./ValueField";

interface Props {
  kind: string;
  params: Record<string, unknown>;
  /** How the step came out; none for a step that is being prepared. */
  state?: StepState | undefined;
  /** The step the form belongs to, or the one it will stand after: what stands above can be referred to. */
  step: string | null;
  onChange: (part: Record<string, unknown>) => void;
  /** What belongs right after a field: picks that no form can hold. */
  slots?: Record<string, ReactNode>;
  /** A value while it is being typed. */
  onType?: (part: Record<string, unknown>) => void;
}

/** All parameters of a step as its kind declares them. */
export function StepForm({ kind: id, params, state, step, onChange, onType, slots }: Props) {
  const { unit } = useBench();
  const { kinds, references } = useDeclarations();
  const kind = kinds[id];
  if (!kind) return null;
  // What stands for a place in space is picked there, or chosen from what stands above.
  const inSpace = (f: Field) => ["surfaces", "spots"].includes(references[f.reference ?? ""]?.layer ?? "");
  const key = kind.key_value;
  const shown = kind.fields.filter((f) => isShown(f, kind, params) && !hidden(f));
  const row = (f: Field, at: At = { params, before: "", change: onChange, type: onType }): ReactNode => {
    const value = at.params[f.name] ?? f.fallback;
    if (f.type === "value")
      return (
        <ValueField
          key={f.name}
          label={f.label}
          help={f.help}
          shown={shownValue(value as Typed | null, formulaName(at.before + f.name), state, unit)}
          of={{ kind: id, params, place: at.before + f.name, own: step, dimension: f.dimension! }}
          autoFocus={!state && !at.before && f.name === key && f.dimension === "length"}
          onType={at.type && ((text) => at.type?.({ [f.name]: text.trim() ? { text, mark: "assumed" } : value }))}
          onCommit={(v) => at.change({ [f.name]: v ?? (f.optional ? null : (f.fallback ?? value)) })}
        />
      );
    if (f.type === "choice")
      return (
        <div key={f.name}>
          <div className="field-label" title={f.help}>
            {f.label}
          </div>
          {f.options.join("").length > 26 ? (
            <Select
              aria-label={f.label}
              className="wide"
              value={String(value)}
              options={f.options.map((o) => ({ value: o, label: o }))}
              onChange={(v: string) => at.change({ [f.name]: v })}
            />
          ) : (
            <Segmented
              block
              aria-label={f.label}
              value={String(value)}
              options={f.options}
              onChange={(v) => at.change({ [f.name]: v })}
            />
          )}
        </div>
      );
    if (f.type === "switch")
      return (
        <Checkbox
          key={f.name}
          className="gap"
          checked={Boolean(value)}
          onChange={(e) => at.change({ [f.name]: e.target.checked })}
        >
          {f.help || f.label}
        </Checkbox>
      );
    if ((f.type === "ref" || f.type === "refs") && !f.ids)
      return (
        <PartsField key={f.name} field={f} value={value} step={step} own={state !== undefined} onChange={at.change} />
      );
    if (f.type === "rows" && f.fields.length > 0 && f.fields.every(isSimple)) {
      const rows = (Array.isArray(value) ? value : []) as Record<string, unknown>[];
      return (
        <RowsField key={f.name} field={f} rows={rows} onChange={(next) => at.change({ [f.name]: next })}>
          {(g, own, k, put) =>
            row(g, {
              params: own,
              before: `${at.before}${f.name}[${k}].`,
              change: (part) => put({ ...own, ...part }),
              type:
                at.type && ((part) => at.type?.({ [f.name]: rows.map((r, i) => (i === k ? { ...r, ...part } : r)) })),
            })
          }
        </RowsField>
      );
    }
    if (f.type === "face") return <FaceField key={f.name} field={f} value={value} onChange={at.change} />;
    if (f.type === "spot") return <SpotField key={f.name} field={f} value={value} onChange={at.change} />;
    if (f.type === "words")
      return <WordsField key={f.name} field={f} value={String(value ?? "")} onChange={at.change} />;
    if (f.type === "ref" && inSpace(f)) {
      const name = `${f.name}_spot`;
      const spot = kind.fields.some((g) => g.name === name)
        ? { name, value: (params[name] ?? null) as Spot | null }
        : null;
      return <PlaceRow key={f.name} field={f} value={value} spot={spot} step={step} onChange={at.change} />;
    }
    if (f.type === "ref" || f.type === "refs")
      return <RefField key={f.name} field={f} value={value} step={step} onChange={at.change} />;
    return null; // facets, loops, pairs: chosen in the view, shown by parts of their own
  };
  const folds = [...new Set(shown.map((f) => f.fold).filter(Boolean))];
  const says = (f: Field) => textOf(params[f.name] ?? f.fallback) !== textOf(f.fallback);
  return (
    <>
      {shown
        .filter((f) => !f.fold)
        .map((f) => (
          <Fragment key={f.name}>
            {row(f)}
            {slots?.[f.name]}
          </Fragment>
        ))}
      {folds.map((fold) => {
        const inside = shown.filter((f) => f.fold === fold);
        return (
          <details key={fold} className="fold" open={inside.some(says)}>
            <summary>{fold}</summary>
            {inside.map((f) => row(f))}
          </details>
        );
      })}
    </>
  );
}

/** Where a field stands: in the step's parameters, or in a row of them. */
interface At {
  params: Record<string, unknown>;
  before: string;
  change: (part: Record<string, unknown>) => void;
  type: ((part: Record<string, unknown>) => void) | undefined;
}

/** What formulas and the build's values call the value at a place: ``more[0].radius`` is ``more_0_radius``. */
const formulaName = (place: string) =>
  place
    .split(/[.[\]]+/)
    .filter(Boolean)
    .join("_");

/** Fields that a row can hold without a part of its own. */
const isSimple = (f: Field) => f.type === "value" || ((f.type === "refs" || f.type === "ref") && !f.ids);

/** The scan is the one on the bench; a spot is picked beside the place it stands in for. */
const hidden = (f: Field) =>
  (f.type === "ref" && f.reference === "scan") || (f.type === "spot" && f.name.endsWith("_spot"));

const textOf = (value: unknown): string => (value as { text?: string } | null)?.text ?? String(value);

/** Steps above that make what a reference wants; bodies as they are there. */
function useOffers(ref: string, step: string | null): { value: string; label: string }[] {
  const { job } = useBench();
  const { kinds, references } = useDeclarations();
  const wanted = references[ref];
  const steps = job.recipe.steps;
  const at = step === null ? steps.length : steps.findIndex((s) => s.id === step);
  const above = steps.slice(0, at < 0 ? steps.length : at);
  if (ref !== "body")
    return above
      .filter((s) => wanted?.accepts.includes(kinds[s.kind]?.makes ?? ""))
      .filter((s) => {
        const found = job.build.result?.steps.find((t) => t.id === s.id)?.facts;
        const shapes = kinds[s.kind]?.makes === "region" && found?.kind ? (wanted?.shapes ?? []) : [];
        return shapes.length === 0 || shapes.includes(String(found?.kind));
      })
      .map((s) => ({ value: s.id, label: s.name }));
  const states = job.build.result?.steps ?? [];
  const ids = new Set(above.flatMap((s) => Object.keys(states.find((t) => t.id === s.id)?.after ?? {})));
  const named = job.build.result?.bodies ?? [];
  return steps
    .filter((s) => ids.has(s.id))
    .map((s) => ({ value: s.id, label: named.find((b) => b.id === s.id)?.name ?? s.name }));
}

interface RefProps {
  field: Field;
  value: unknown;
  step: string | null;
  onChange: (part: Record<string, unknown>) => void;
}

function RefField({ field, value, step, onChange }: RefProps) {
  const ref = field.reference ?? "";
  const label = useDeclarations().references[ref]?.label ?? ref;
  const offers = useOffers(ref, step);
  const id = (value as { id: string } | null)?.id ?? null;
  const ids = Array.isArray(value) ? (value as { id: string }[]).map((v) => v.id) : [];
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      {field.type === "refs" ? (
        <Select
          mode="multiple"
          aria-label={field.label}
          className="wide"
          value={ids}
          options={offers}
          placeholder={`choose ${field.label.toLowerCase()}`}
          onChange={(v: string[]) => onChange({ [field.name]: v.map((i) => ({ id: i })) })}
        />
      ) : (
        <Select
          aria-label={field.label}
          className="wide"
          value={id}
          options={offers}
          allowClear={field.optional}
          placeholder={offers.length ? `choose ${label}` : `no ${ref} above this step`}
          onChange={(v?: string) => onChange({ [field.name]: v ? { id: v } : null })}
        />
      )}
    </div>
  );
}

function PlaceRow({ step, ...rest }: Omit<Parameters<typeof PlaceField>[0], "offers"> & { step: string | null }) {
  return <PlaceField {...rest} offers={useOffers(rest.field.reference ?? "", step)} />;
}

function WordsField({ field, value, onChange }: Omit<RefProps, "step" | "value"> & { value: string }) {
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      <Input
        key={value}
        aria-label={field.label}
        defaultValue={value}
        placeholder={field.help}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") e.currentTarget.blur();
        }}
        onBlur={(e) => e.target.value.trim() !== value && onChange({ [field.name]: e.target.value.trim() })}
      />
    </div>
  );
}

function FaceField({ field, value, onChange }: Omit<RefProps, "step">) {
  const { armed, arm } = useArmed();
  const { job } = useBench();
  const ref = value as { name: string; kind: string; body: string } | null;
  const body = job.recipe.steps.find((s) => s.id === ref?.body)?.name;
  const hint = `Click the ${field.label.toLowerCase()} on a body`;
  const waiting = armed?.hint === hint;
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      <div className="value-line">
        <span className="face-said">{ref ? `${ref.kind || "face"} of ${body ?? "a body"}` : "none"}</span>
        <Button
          size="small"
          type={waiting ? "primary" : "default"}
          onClick={() =>
            arm(
              waiting
                ? null
                : {
                    want: "face",
                    hint,
                    onFace: (pick) => {
                      onChange({ [field.name]: faceRef(pick.body, pick.face) });
                      arm(null);
                    },
                  },
            )
          }
        >
          {waiting ? "click it in the view" : ref ? "Pick another" : "Pick"}
        </Button>
        {ref && (
          <Button size="small" type="text" onClick={() => onChange({ [field.name]: null })}>
            Clear
          </Button>
        )}
      </div>
    </div>
  );
}
