import { Button } from "antd";
import { useBench } from "../job/context";

/** A sketch or an outline as a flat file, as it is now. */
export function SaveFlat({ step }: { step: string }) {
  const { job } = useBench();
  return (
    <p className="small save-flat">
      Save it as{" "}
      {["dxf", "svg"].map((kind) => (
        <Button key={kind} size="small" type="link" href={`/api/jobs/${job.id}/steps/${step}/flat.${kind}`} download>
          {kind.toUpperCase()}
        </Button>
      ))}
    </p>
  );
}
