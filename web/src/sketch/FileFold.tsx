import { Button } from "antd";
import { FileDoor } from "../intake/FileDoor";
import { accept } from "../intake/files";
import { ProblemNote } from "../ui/ProblemNote";
import type { Frame, Shown } from "./drawing";
import { FileSheet } from "./FileSheet";
import { useHandOf } from "./store";
import type { Do } from "./stroke";
import { useFlatFile } from "./useFlatFile";

interface Props {
  frame: Frame | null;
  shown: Shown;
  act: Do;
}

/** Drawings as files: one that is brought in is looked at first; what of it lies under the sketch can be lifted again. */
export function FileFold({ frame, shown, act }: Props) {
  const file = useFlatFile();
  const { set } = useHandOf("set");
  const under = shown.drawing.under ?? [];
  return (
    <section className="file-fold" aria-label="Drawing files">
      <div className="field-label">Drawing files</div>
      <FileDoor
        label="DXF or SVG file"
        accept={accept("flat")}
        size="small"
        loading={file.busy}
        onFiles={([one]) => one && file.open(one)}
      >
        Bring a DXF or SVG in
      </FileDoor>
      {file.problem && <ProblemNote problem={file.problem.problem} />}
      {file.read && (
        <FileSheet
          read={file.read}
          choice={file.choice}
          busy={file.busy}
          frame={frame}
          onChoose={file.choose}
          onLeave={file.leave}
          onTake={async (wanted) => {
            const put = await act([wanted]);
            if (!put) return;
            file.leave();
            // What came in is at hand, to be moved or made fewer.
            set({ chosen: [...put.chosen] });
          }}
        />
      )}
      {under.map((s) => (
        <p key={s.name} className="small under-row">
          {s.name} lies under it: {words(s.lines?.length ?? 0, "line")}, {words(s.texts?.length ?? 0, "text")}.{" "}
          <Button size="small" type="link" onClick={() => void act([{ act: "lift", name: s.name }])}>
            Lift it
          </Button>
        </p>
      ))}
    </section>
  );
}

const words = (n: number, of: string) => `${n.toLocaleString("en")} ${of}${n === 1 ? "" : "s"}`;
