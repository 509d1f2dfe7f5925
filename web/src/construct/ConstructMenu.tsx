import { Button, Dropdown } from "antd";
import { Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { useBench } from "../job/context";
import { plainSection } from "../section/draft";
import { useTool } from "../sheets/tool";
import { stage } from "../view/stage";

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
  const openSection = useTool((s) => s.openSection);
  const items = MADE.filter((m) => m.key !== "symmetry" || scanId).map((m) => ({
    key: m.key,
    label: m.label,
    onClick: () =>
      openDraft({
        kind: m.kind ?? m.key,
        params: { ...m.params, ...(scanId && m.scan ? { scan: { id: scanId } } : {}) },
      }),
  }));
  const section = () => {
    const box = stage.scan?.geometry.boundingBox;
    if (!box || !stage.scan) return;
    const middle = stage.scan.localToWorld(box.getCenter(new Vector3())).toArray() as Vec3;
    // Across the longest extent: the section that says most of a part at first sight is through its middle.
    const size = box.getSize(new Vector3()).toArray();
    const k = size.indexOf(Math.max(...size));
    const normal: Vec3 = [0, 0, 0];
    normal[k] = 1;
    openSection({ ...plainSection, region: null, origin: middle, normal, offset: "0 mm", clip: true });
  };
  if (scanId) items.push({ key: "section", label: "Section through the part", onClick: section });
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
