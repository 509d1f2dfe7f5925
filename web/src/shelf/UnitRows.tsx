import { Radio } from "antd";
import { MM_PER, type Unit } from "../units";

/** Sizes in a file's unit as they are in the unit shown. */
export function sizeIn(size: readonly number[], file: Unit, shown: Unit): string {
  const k = MM_PER[file] / MM_PER[shown];
  const digits = shown === "inch" ? 2 : 1;
  return `${size.map((s) => (s * k).toLocaleString("en", { minimumFractionDigits: digits, maximumFractionDigits: digits })).join(" × ")} ${shown}`;
}

interface Props {
  units: readonly Unit[];
  value: Unit;
  onChange: (unit: Unit) => void;
  /** In the file's own figures. */
  size: readonly number[];
  /** What speaks for a unit, said beside it. */
  said: (unit: Unit) => string | null;
}

/** A choice of units, each with the size that it would make of the part. */
export function UnitRows({ units, value, onChange, size, said }: Props) {
  return (
    <Radio.Group className="units" value={value} onChange={(e) => onChange(e.target.value as Unit)}>
      {units.map((u) => (
        <Radio key={u} value={u} className="unit-row">
          <b className="unit-name">{u}</b>
          <span className="figures">{sizeIn(size, u, "mm")}</span>
          <span className="figures quiet">{sizeIn(size, u, "inch")}</span>
          {said(u) && <span className="proposal">{said(u)}</span>}
        </Radio>
      ))}
    </Radio.Group>
  );
}
