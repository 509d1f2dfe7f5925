import { Button } from "antd";
import { useTool } from "../sheets/tool";

/** What usually follows from a region: construction geometry of it, and its size as a lasting measurement. */
export function FromRegion({ region, kind }: { region: string; kind: string }) {
  const openDraft = useTool((s) => s.openDraft);
  const ref = { id: region };
  if (kind === "plane")
    return (
      <Button onClick={() => openDraft({ kind: "plane", params: { by: "parallel", plane: ref } })}>
        Plane from it
      </Button>
    );
  return (
    <>
      {kind !== "sphere" && (
        <Button onClick={() => openDraft({ kind: "axis", params: { by: "round", axis: ref } })}>Axis of it</Button>
      )}
      <Button onClick={() => openDraft({ kind: "measurement", params: { what: "size", first: ref } })}>
        Measure it
      </Button>
    </>
  );
}
