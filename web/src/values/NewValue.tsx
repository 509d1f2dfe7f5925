import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Dimension } from "../api/kinds";
import { useBench } from "../job/context";

/** A value that is not in the job yet. */
export function NewValue() {
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
