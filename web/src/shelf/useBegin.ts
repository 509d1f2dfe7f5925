import { useState } from "react";
import { api, got, ProblemError, type UploadOut } from "../api/client";
import type { Unit } from "../units";

/** A job begun with an upload: its name, proposed from the file's, and why it could not be begun. */
export function useBegin(upload: UploadOut, onDone: (jobId: string) => void) {
  const [name, setName] = useState(upload.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " "));
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const begin = async (unit: Unit) => {
    try {
      const job = await got(api.POST("/api/jobs", { body: { upload: upload.id, name, unit } }));
      onDone(job.id);
    } catch (e) {
      if (e instanceof ProblemError) setProblem(e);
      else throw e;
    }
  };
  return { name, setName, problem, begin };
}
