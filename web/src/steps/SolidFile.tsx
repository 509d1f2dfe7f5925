import { Button } from "antd";
import { useRef } from "react";
import { keepFile } from "../api/files";
import { useBench } from "../job/context";

interface Props {
  value: { blob: string; name: string } | null;
  onChange: (file: { blob: string; name: string }) => void;
}

/** A STEP file that a step rests on. */
export function SolidFile({ value, onChange }: Props) {
  const { job, tell } = useBench();
  const file = useRef<HTMLInputElement>(null);
  const keep = (chosen: File) => {
    keepFile(job.id, chosen).then(onChange).catch(tell);
  };
  return (
    <div className="value-line">
      <span className="face-said">{value?.name ?? "no solid yet"}</span>
      <Button size="small" onClick={() => file.current?.click()}>
        {value ? "Another STEP file" : "Choose a STEP file"}
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="STEP file"
        accept=".step,.stp,.iges,.igs"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) keep(chosen);
          e.target.value = "";
        }}
      />
    </div>
  );
}
