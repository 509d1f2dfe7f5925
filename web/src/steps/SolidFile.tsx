import { keepFile } from "../api/files";
import { FileDoor } from "../intake/FileDoor";
import { accept } from "../intake/files";
import { useBench } from "../job/context";

interface Props {
  value: { blob: string; name: string } | null;
  onChange: (file: { blob: string; name: string }) => void;
}

/** A STEP file that a step rests on. */
export function SolidFile({ value, onChange }: Props) {
  const { job, tell } = useBench();
  const keep = (chosen: File) => {
    keepFile(job.id, chosen).then(onChange).catch(tell);
  };
  return (
    <div className="value-line">
      <span className="face-said">{value?.name ?? "no solid yet"}</span>
      <FileDoor label="STEP file" accept={accept("solid")} size="small" onFiles={([one]) => one && keep(one)}>
        {value ? "Another STEP file" : "Choose a STEP file"}
      </FileDoor>
    </div>
  );
}
