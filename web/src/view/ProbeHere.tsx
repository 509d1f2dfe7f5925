import { Button } from "antd";
import { useEffect, useRef } from "react";
import { useBench } from "../job/context";
import { signed } from "../units";
import { usePointed } from "./pointed";
import { rawPoint } from "./pose";
import { project } from "./stage";

/** The deviation at the clicked place, beside it; it can be pinned. `onFrame`: called after every frame. */
export function ProbeHere({ onFrame }: { onFrame: { current: () => void } }) {
  const { job, unit, scanId, pose, edit } = useBench();
  const probe = usePointed((s) => s.probe);
  const set = usePointed((s) => s.set);
  const label = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = () => {
      const box = label.current?.parentElement?.getBoundingClientRect();
      if (!probe || !label.current || !box) return;
      const p = project(probe.point);
      label.current.style.transform = `translate(${p.x - box.left + 10}px, ${p.y - box.top - 34}px)`;
    };
    onFrame.current = place;
    place();
  }, [probe, onFrame]);
  if (!probe) return null;
  const pin = async () => {
    const pinned = {
      id: crypto.randomUUID(),
      name: `Probe ${(job.recipe.probes?.length ?? 0) + 1}`,
      scan: scanId,
      facet: probe.facet,
      point: rawPoint(pose, probe.point),
    };
    if (await edit({ op: "pin-probe", probe: pinned })) set({ probe: null });
  };
  return (
    <div ref={label} className="probe figures" role="status" aria-label="Deviation here">
      {signed(probe.deviation, unit, 1)}
      <Button size="small" type="link" onClick={() => void pin()}>
        Pin
      </Button>
    </div>
  );
}
