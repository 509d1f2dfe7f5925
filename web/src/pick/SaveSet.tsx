import { Button, Input } from "antd";
import { useState } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { packU4 } from "../view/buffers";
import { usePicks } from "./picks";
import type { NamedSet } from "./useTakeSet";

type Part = NamedSet["parts"][number];

interface Props {
  /** Facets of the scan that are in hand. */
  facets?: Uint32Array | null;
  /** What else is chosen, as a whole. */
  things?: Part[];
  text?: string;
  /** Just the things, not what is picked. */
  only?: boolean;
}

/** Keeps what is in hand under a name, to be chosen, hidden or shown again. */
export function SaveSet({ facets = null, things = [], text = "Name this choice", only = false }: Props) {
  const { job, scanId, scanKey, edit, tell } = useBench();
  const { faces, edges, bodies } = usePicks();
  const [asking, setAsking] = useState(false);
  const inHand = (): Part[] => [
    ...faces.map((f) => ({ part: "face" as const, body: f.body, name: f.face.name })),
    ...edges.map((e) => ({ part: "edge" as const, body: e.body, name: e.edge.name })),
    ...bodies.map((b) => ({ part: "body" as const, id: b.body })),
  ];
  const picked = async (): Promise<Part[]> => {
    if (!facets || !scanKey) return [];
    const body = { scan: scanKey, facets: packU4(facets), surface: "auto" as const };
    const kept = await got(api.POST("/api/jobs/{job_id}/keep-picked", { params: { path: { job_id: job.id } }, body }));
    return [{ part: "facets", scan: scanId, picked: kept }];
  };
  const save = async (typed: string) => {
    setAsking(false);
    const name = typed.trim();
    if (!name) return;
    try {
      const parts: Part[] = [...things, ...(only ? [] : inHand()), ...(await picked())];
      await edit({ op: "put-set", set: { id: crypto.randomUUID(), name, parts } });
    } catch (e) {
      tell(e);
    }
  };
  if (!asking)
    return (
      <Button size="small" type="text" onClick={() => setAsking(true)}>
        {text}
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
