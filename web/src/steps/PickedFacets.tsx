import { Button } from "antd";
import { useEffect, useRef } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { count } from "../units";
import { packU4 } from "../view/buffers";

interface Props {
  value: { blob: string; count: number } | null;
  onChange: (picked: { blob: string; count: number }) => void;
}

/** Facets drawn around with the lasso or the brush, taken for a step. */
export function PickedFacets({ value, onChange }: Props) {
  const { job, scanKey, tell } = useBench();
  const hand = usePicks((s) => s.hand);
  const take = () => {
    if (!hand) return;
    const body = { scan: scanKey, facets: packU4(hand), surface: "auto" as const };
    got(api.POST("/api/jobs/{job_id}/keep-picked", { params: { path: { job_id: job.id } }, body }))
      .then(onChange)
      .catch(tell);
  };
  // Whoever draws first and then asks for the step means what is drawn.
  const taken = useRef(value !== null);
  useEffect(() => {
    if (!taken.current && hand) take();
    taken.current = true;
  });
  return (
    <div className="value-line">
      <span className="quiet small">
        {value ? `${count(value.count)} facets taken` : hand ? "" : "draw around facets with the lasso first"}
      </span>
      {hand && value?.count !== hand.length && (
        <Button size="small" onClick={take}>
          Take the {count(hand.length)} drawn
        </Button>
      )}
    </div>
  );
}
