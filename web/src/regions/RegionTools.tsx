import { useQueryClient } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import type { Vec3 } from "../api/build";
import { api, got } from "../api/client";
import { baseOf } from "../api/facts";
import { asJob } from "../api/queries";
import { useBench } from "../job/context";
import { useArmed } from "../pick/armed";
import { usePicks } from "../pick/picks";
import { useSelecting } from "../pick/selecting";
import { packU4 } from "../view/buffers";
import { stage } from "../view/stage";

type Op = "join" | "split" | "give" | "take" | "rings" | "worn";

/** The plane through two places along the line of sight. */
export function planeOfSight(a: Vec3, b: Vec3, eye: Vec3): { origin: Vec3; normal: Vec3 } {
  const d = (p: Vec3): Vec3 => [p[0] - eye[0], p[1] - eye[1], p[2] - eye[2]];
  const [p, q] = [d(a), d(b)];
  return {
    origin: a,
    normal: [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]],
  };
}

/** Changing a region by hand: rings, parts, facets that are painted, other regions that belong to it. */
export function RegionTools({ region }: { region: string }) {
  const { job, scanId, scanKey, tell } = useBench();
  const client = useQueryClient();
  const { armed, arm } = useArmed();
  const hand = usePicks((s) => s.hand);
  const clear = usePicks((s) => s.clear);
  const by = useSelecting();
  const [busy, setBusy] = useState(false);
  const planes = (job.build.result?.steps ?? [])
    .filter((s) => s.id !== region && baseOf(s)?.shape === "plane")
    .flatMap((s) => job.recipe.steps.filter((t) => t.id === s.id));
  const others = job.recipe.steps.filter((s) => s.kind === "region" && s.id !== region);
  const change = async (
    op: Op,
    part: { regions?: string[]; rings?: number; origin?: Vec3; normal?: Vec3; plane?: string } = {},
  ) => {
    setBusy(true);
    try {
      const painted = op === "give" || op === "take" || op === "worn";
      const body = {
        version: job.version,
        evidence: scanId,
        scan: scanKey,
        op,
        regions: [region],
        rings: 0,
        ...part,
        facets: painted && hand ? packU4(hand) : null,
      };
      const params = { path: { job_id: job.id } };
      const next = await got(api.POST("/api/jobs/{job_id}/regions-by-hand", { params, body }));
      client.setQueryData(["job", job.id], asJob(next));
      if (painted) {
        clear();
        by.set({ by: "click" });
      }
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const first = "Click one end of the cut through this region";
  const second = "Click the other end of the cut";
  const split = () => {
    if (armed?.hint === first || armed?.hint === second) return arm(null);
    arm({
      hint: first,
      onFacet: (_, a) =>
        arm({
          hint: second,
          onFacet: (_again, b) => {
            arm(null);
            const eye = stage.now?.camera.position.toArray() as Vec3 | undefined;
            if (eye) void change("split", planeOfSight(a, b, eye));
          },
        }),
    });
  };
  return (
    <details className="fold" open={hand !== null}>
      <summary>Change it by hand</summary>
      <div className="measure-ways">
        <Button size="small" disabled={busy} onClick={() => void change("rings", { rings: 1 })}>
          A ring more
        </Button>
        <Button size="small" disabled={busy} onClick={() => void change("rings", { rings: -1 })}>
          A ring less
        </Button>
        <Button size="small" disabled={busy} onClick={split} title="along the line of sight through two places">
          Split it by a line
        </Button>
      </div>
      {others.length > 0 && (
        <Select
          className="wide gap"
          size="small"
          aria-label="Join with"
          placeholder="join with another region"
          value={null}
          options={others.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(id: string) => void change("join", { regions: [region, id] })}
        />
      )}
      {planes.length > 0 && (
        <Select
          className="wide gap"
          size="small"
          aria-label="Split by a plane"
          placeholder="split it by a plane"
          value={null}
          options={planes.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(id: string) => void change("split", { plane: id })}
        />
      )}
      {hand ? (
        <div className="measure-ways gap">
          <Button size="small" type="primary" disabled={busy} onClick={() => void change("give")}>
            Painted facets are its own
          </Button>
          <Button size="small" disabled={busy} onClick={() => void change("take")}>
            … are not
          </Button>
          <Button size="small" disabled={busy} onClick={() => void change("worn")} title="they have no say in the fit">
            … are worn
          </Button>
        </div>
      ) : (
        <p className="quiet small">
          To give it facets, take some away or mark them as worn, paint them first:{" "}
          <Button size="small" type="link" onClick={() => by.set({ by: "brush" })}>
            take the brush
          </Button>
        </p>
      )}
    </details>
  );
}
