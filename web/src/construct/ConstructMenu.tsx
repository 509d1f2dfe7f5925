import { Button, Dropdown } from "antd";
import { useBench } from "../job/context";
import { useOpenSection } from "../section/useOpenSection";
import { useTool } from "../sheets/tool";

const MADE = [
  { key: "plane", label: "Plane", params: { by: "parallel" }, scan: true },
  { key: "axis", label: "Axis", params: { by: "round" } },
  { key: "point", label: "Point", params: { by: "typed" }, scan: true },
  { key: "curve", label: "Curve through points", params: { points: [], between: "smooth" } },
  { key: "symmetry", label: "Symmetry plane of the scan", kind: "plane", params: { by: "symmetry" }, scan: true },
];

/** Construction planes, axes, points and curves to be made. */
export function ConstructMenu() {
  const { scanId } = useBench();
  const openDraft = useTool((s) => s.openDraft);
  const section = useOpenSection();
  const items = MADE.filter((m) => m.key !== "symmetry" || scanId).map((m) => ({
    key: m.key,
    label: m.label,
    onClick: () =>
      openDraft({
        kind: m.kind ?? m.key,
        params: { ...m.params, ...(scanId && m.scan ? { scan: { id: scanId } } : {}) },
      }),
  }));
  if (scanId) items.push({ key: "section", label: "Section through the part", onClick: section.through });
  return (
    <Dropdown menu={{ items }} trigger={["click"]} placement="topLeft">
      <Button size="small" title="planes, axes and points to work from">
        <span>
          Planes<span className="while-roomy">, axes, points</span>
        </span>
      </Button>
    </Dropdown>
  );
}
