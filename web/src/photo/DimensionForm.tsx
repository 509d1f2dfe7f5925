import { Button, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import { type Point, usePhoto } from "./store";

type Unit = "mm" | "inch" | "deg";

interface Props {
  at: Point;
  onKeep: (at: Point, name: string, value: number, unit: Unit, tolerance: number | null) => Promise<boolean>;
}

/** A figure that a drawing states, with the tolerance it states beside it. */
export function DimensionForm({ at, onKeep }: Props) {
  const use = usePhoto((s) => s.use);
  const [name, setName] = useState("");
  const [value, setValue] = useState<number | null>(null);
  const [unit, setUnit] = useState<Unit>("mm");
  const [tolerance, setTolerance] = useState<number | null>(null);
  const keep = async () => {
    if (name.trim() && value !== null && (await onKeep(at, name.trim(), value, unit, tolerance))) use("dimension");
  };
  const keys = (e: React.KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === "Enter") void keep();
  };
  return (
    <span className="value-line">
      <Input
        size="small"
        autoFocus
        aria-label="Name of the dimension"
        placeholder="name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={keys}
      />
      <InputNumber
        size="small"
        aria-label="Stated value"
        placeholder="value"
        value={value}
        onChange={setValue}
        onKeyDown={keys}
      />
      <Select
        size="small"
        aria-label="Unit of the dimension"
        value={unit}
        options={["mm", "inch", "deg"].map((u) => ({ value: u as Unit, label: u }))}
        onChange={setUnit}
      />
      <InputNumber
        size="small"
        aria-label="Stated tolerance"
        prefix="±"
        suffix="mm"
        min={0}
        value={tolerance}
        onChange={setTolerance}
        onKeyDown={keys}
      />
      <Button size="small" type="primary" onClick={() => void keep()}>
        Keep
      </Button>
    </span>
  );
}
