import { Button, Input } from "antd";
import { useState } from "react";
import { useBench } from "../job/context";
import { usePicks } from "./picks";

/** Keeps the faces and edges in hand under a name, to be chosen again. */
export function SaveSet() {
  const { edit } = useBench();
  const { faces, edges } = usePicks();
  const [asking, setAsking] = useState(false);
  const save = async (typed: string) => {
    setAsking(false);
    const name = typed.trim();
    if (!name) return;
    const parts = [
      ...faces.map((f) => ({ part: "face" as const, body: f.body, name: f.face.name })),
      ...edges.map((e) => ({ part: "edge" as const, body: e.body, name: e.edge.name })),
    ];
    await edit({ op: "put-set", set: { id: crypto.randomUUID(), name, parts } });
  };
  if (!asking)
    return (
      <Button size="small" type="text" onClick={() => setAsking(true)}>
        Name this choice
      </Button>
    );
  return (
    <Input
      size="small"
      autoFocus
      className="set-name"
      aria-label="Name of the choice"
      placeholder="name, then Enter"
      maxLength={60}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") void save(e.currentTarget.value);
        if (e.key === "Escape") setAsking(false);
      }}
      onBlur={() => setAsking(false)}
    />
  );
}
