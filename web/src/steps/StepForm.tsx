import { Checkbox } from "antd";
import { Fragment, type ReactNode } from "react";
import type { StepState } from "../api/build";
import { type Field, isShown, useDeclarations } from "../api/kinds";
import { PlaceField, SpotField } from "../construct/PlaceField";
import { PlacesField } from "../construct/PlacesField";
import type { Spot } from "../construct/usePickPlace";
import { useBench } from "../job/context";
import { PartsField } from "../pick/PartsField";
import { ValueField } from "../values/ValueField";
import { ChoiceField } from "./ChoiceField";
import { FaceField } from "./FaceField";
import { type At, formulaName, isHidden, isSimple, textOf } from "./formRow";
import { RefField } from "./RefField";
import { RowsField } from "./RowsField";
import { shownValue, type Typed } from "./stepValues";
import { useOffers } from "./useOffers";
import { WordsField } from "./WordsField";

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
  /** Fields that are asked for here; all where it is not given. */
  only?: readonly string[];
  /** A value while it is being typed. */
  onType?: (part: Record<string, unknown>) => void;
}

/** All parameters of a step as its kind declares them. */
export function StepForm({ kind: id, params, state, step, onChange, onType, slots, only }: Props) {
  const { unit, scanId } = useBench();
  const { kinds, references } = useDeclarations();
  const kind = kinds[id];
  if (!kind) return null;
  // What stands for a place in space is picked there, or chosen from what stands above.
  const inSpace = (f: Field) => ["surfaces", "spots"].includes(references[f.reference ?? ""]?.layer ?? "");
  const shown = kind.fields.filter((f) => isShown(f, kind, params) && !isHidden(f) && (only?.includes(f.name) ?? true));
  const value = (f: Field, v: unknown, at: At) => (
    <ValueField
      key={f.name}
      label={f.label}
      help={f.help}
      shown={shownValue(v as Typed | null, formulaName(at.before + f.name), state, unit)}
      of={{ kind: id, params, place: at.before + f.name, own: step, dimension: f.dimension! }}
      autoFocus={!state && !at.before && f.name === kind.key_value && f.dimension === "length"}
      onType={at.type && ((text) => at.type?.({ [f.name]: text.trim() ? { text, mark: "assumed" } : v }))}
      onCommit={(now) => at.change({ [f.name]: now ?? (f.optional ? null : (f.fallback ?? v)) })}
    />
  );
  const rows = (f: Field, v: unknown, at: At) => {
    const own = (Array.isArray(v) ? v : []) as Record<string, unknown>[];
    const typed = (k: number) => (part: Record<string, unknown>) =>
      at.type?.({ [f.name]: own.map((r, i) => (i === k ? { ...r, ...part } : r)) });
    return (
      <RowsField key={f.name} field={f} rows={own} onChange={(next) => at.change({ [f.name]: next })}>
        {(g, of, k, put) =>
          row(g, {
            params: of,
            before: `${at.before}${f.name}[${k}].`,
            change: (part) => put({ ...of, ...part }),
            type: at.type && typed(k),
          })
        }
      </RowsField>
    );
  };
  const row = (f: Field, at: At = { params, before: "", change: onChange, type: onType }): ReactNode => {
    const v = at.params[f.name] ?? f.fallback;
    const props = { field: f, value: v, onChange: at.change };
    const refers = f.type === "ref" || f.type === "refs";
    if (f.type === "value") return value(f, v, at);
    if (f.type === "choice") return <ChoiceField key={f.name} {...props} />;
    if (f.type === "switch")
      return (
        <Checkbox
          key={f.name}
          className="gap"
          checked={Boolean(v)}
          onChange={(e) => at.change({ [f.name]: e.target.checked })}
        >
          {f.help || f.label}
        </Checkbox>
      );
    if (f.type === "refs" && inSpace(f) && f.ids) return <PlacesRow key={f.name} {...props} step={step} />;
    if (refers && !f.ids) return <PartsField key={f.name} {...props} step={step} own={state !== undefined} />;
    if (f.type === "rows" && f.fields.length > 0 && f.fields.every(isSimple)) return rows(f, v, at);
    if (f.type === "face") return <FaceField key={f.name} {...props} />;
    if (f.type === "spot") return <SpotField key={f.name} {...props} />;
    if (f.type === "words") return <WordsField key={f.name} {...props} value={String(v ?? "")} />;
    if (f.type === "ref" && inSpace(f)) {
      const name = `${f.name}_spot`;
      const has = kind.fields.some((g) => g.name === name);
      const spot = has ? { name, value: (params[name] ?? null) as Spot | null } : null;
      // A spot is one of the scan on the bench, which the step has to know then.
      const scan = has && scanId && kind.fields.some((g) => g.name === "scan") ? { scan: { id: scanId } } : {};
      const change = (part: Record<string, unknown>) => at.change(part[name] ? { ...part, ...scan } : part);
      return <PlaceRow key={f.name} {...props} onChange={change} spot={spot} step={step} />;
    }
    if (refers) return <RefField key={f.name} {...props} step={step} />;
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

function PlacesRow(props: Omit<Parameters<typeof PlacesField>[0], "offers">) {
  return <PlacesField {...props} offers={useOffers(props.field.reference ?? "", props.step)} />;
}

function PlaceRow(props: Omit<Parameters<typeof PlaceField>[0], "offers">) {
  return <PlaceField {...props} offers={useOffers(props.field.reference ?? "", props.step)} />;
}
