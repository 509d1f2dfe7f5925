import { Button, Dropdown } from "antd";
import { useBench } from "../bench/context";
import { useTool } from "../bench/stores";

const MADE = [
  { key: "plane", label: "Plane", params: { by: "parallel" } },
  { key: "axis", label: "Axis", params: { by: "round" } },
  { key: "point", label: "Point", params: { by: "typed" } },
  { key: "symmetry", label: "Symmetry plane of the scan", kind: "plane", params: { by: "symmetry" } },
];

/** Construction planes, axes and points to be made. */
export function ConstructMenu() {
  const { scanId } = useBench();
  const openDraft = useTool((s) => s.openDraft);
  const items = MADE.filter((m) => m.key !== "symmetry" || scanId).map((m) => ({
    key: m.key,
    label: m.label,
    onClick: () =>
      openDraft({
        kind: m.kind ?? m.key,
        params: { ...m.params, ...(scanId && m.key !== "axis" ? { scan: { id: scanId } } : {}) },
      }),
  }));
  return (
    <Dropdown menu={{ items }} trigger={["click"]} placement="topLeft">
      <Button size="small" title="planes, axes and points to work from">
        Construct …
      </Button>
    </Dropdown>
  );
}
