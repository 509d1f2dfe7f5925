import { useCallback, useRef, useState } from "react";
import { useBench } from "../job/context";
import { useAddScan } from "../scan/useAddScan";
import { useHand } from "../sketch/store";
import { useOpenSketch } from "../sketch/useDrawing";
import { useNewSketch } from "../sketch/useNewSketch";
import { type Sort, sortOf } from "./files";
import { useSendFile } from "./useSendFile";

/** Brings files into the job, one after another, each through the door of its sort. What none takes is said; the others are brought in. */
export function useBringIn() {
  const { tell } = useBench();
  const { bring: bringScan } = useAddScan();
  const send = useSendFile();
  const sketch = useOpenSketch();
  const newSketch = useNewSketch();
  const [busy, setBusy] = useState<string | null>(null);
  const doors: Record<Sort, (file: File) => Promise<unknown>> = {
    mesh: bringScan,
    solid: bringScan,
    table: (file) => send("readings.csv", file),
    // Into the sketch that is open, or a new one: there it is looked at before anything of it is put in.
    flat: async (file) => {
      if (!sketch) await newSketch();
      useHand.getState().set({ dropped: file });
    },
    // A drawing is most often a PDF, a photo never.
    picture: (file) => send("pictures", file, { role: /\.pdf$/i.test(file.name) ? "drawing" : "photo" }),
  };
  const ways = useRef(doors);
  ways.current = doors;
  const bring = useCallback(
    async (files: readonly File[]) => {
      for (const file of files) {
        setBusy(file.name);
        try {
          const sort = sortOf(file.name);
          if (sort) await ways.current[sort](file);
          else
            tell(
              new Error(
                `'${file.name}' is no scan, solid, picture, table or drawing: bring STL, OBJ, PLY, 3MF, VRML, STEP, IGES, PNG, JPEG, PDF, CSV, DXF or SVG`,
              ),
            );
        } catch (e) {
          tell(e);
        }
      }
      setBusy(null);
    },
    [tell],
  );
  return { busy, bring };
}
