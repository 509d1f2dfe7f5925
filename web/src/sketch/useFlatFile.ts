import { useEffect, useRef, useState } from "react";
import { ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { AS_IT_IS, type FlatChoice, readFlat } from "./flatFile";
import { useHandOf } from "./store";

/** A file that is looked at before it is put in: read anew with every choice, the last one asked for being the one that counts. */
export function useFlatFile() {
  const { job } = useBench();
  const { read, dropped, set } = useHandOf("read", "dropped", "set");
  const [file, setFile] = useState<File | null>(null);
  const [choice, setChoice] = useState<FlatChoice>(AS_IT_IS);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const turn = useRef(0);
  const ask = async (of: File, chosen: FlatChoice) => {
    turn.current += 1;
    const mine = turn.current;
    setFile(of);
    setChoice(chosen);
    setBusy(true);
    try {
      const found = await readFlat(job.id, of, chosen);
      if (mine === turn.current) {
        setProblem(null);
        set({ read: found });
      }
    } catch (e) {
      if (mine === turn.current) {
        setProblem(e instanceof ProblemError ? e : new ProblemError({ code: "crashed", message: String(e) }, 0));
        set({ read: null });
      }
    } finally {
      if (mine === turn.current) setBusy(false);
    }
  };
  const leave = () => {
    turn.current += 1;
    setFile(null);
    setBusy(false);
    setProblem(null);
    set({ read: null });
  };
  // An answer that comes when the sheet is closed belongs to no sketch.
  useEffect(
    () => () => {
      turn.current += 1;
      set({ read: null });
    },
    [set],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each file that is dropped
  useEffect(() => {
    if (!dropped) return;
    set({ dropped: null });
    void ask(dropped, AS_IT_IS);
  }, [dropped]);
  return {
    file,
    read: file ? read : null,
    choice,
    busy,
    problem,
    open: (of: File) => void ask(of, AS_IT_IS),
    choose: (part: Partial<FlatChoice>) => file && void ask(file, { ...choice, ...part }),
    leave,
  };
}
