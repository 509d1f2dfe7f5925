import { Button } from "antd";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { type Found, nameOf } from "./facts";

interface Props {
  found: Found;
  /** Makes steps of regions; their ids. */
  keep: (regions: number[]) => Promise<string[] | null>;
}

/** What repeats around an axis, and one sector of it to work on. */
export function AlikeAround({ found, keep }: Props) {
  const { scanId } = useBench();
  const openDraft = useTool((s) => s.openDraft);
  const sector = async (region: number) => {
    const axis = (await keep([region]))?.[0];
    if (axis) openDraft({ kind: "sector", params: { scan: { id: scanId }, axis: { id: axis }, averaged: true } });
  };
  return (found.alike ?? []).map(({ count, region }) => (
    <div className="value-line alike-around" key={region}>
      <span className="quiet small">
        {count} alike around the axis of a {nameOf(found.regions[region]!).toLowerCase()}.
      </span>
      <Button size="small" onClick={() => void sector(region)}>
        Work on one sector
      </Button>
    </div>
  ));
}
