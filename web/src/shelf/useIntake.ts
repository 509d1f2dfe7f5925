import { useCallback, useEffect, useState } from "react";
import { api, got, type Problem, ProblemError, type UploadOut, upload } from "../api/client";

export type Intake =
  | { state: "idle" }
  | { state: "sending"; name: string; part: number }
  | { state: "reading"; upload: UploadOut }
  | { state: "asking"; upload: UploadOut }
  | { state: "refused"; name: string; problem: Problem };

/** A dropped file on its way to becoming a job: sent, read, then asked for its unit. */
export function useIntake() {
  const [intake, setIntake] = useState<Intake>({ state: "idle" });
  const bring = useCallback(async (file: File) => {
    setIntake({ state: "sending", name: file.name, part: 0 });
    try {
      const sent = await upload(file, (part) => setIntake({ state: "sending", name: file.name, part }));
      setIntake({ state: "reading", upload: sent });
    } catch (e) {
      const problem = e instanceof ProblemError ? e.problem : { code: "crashed", message: String(e) };
      setIntake({ state: "refused", name: file.name, problem });
    }
  }, []);
  useEffect(() => {
    if (intake.state !== "reading") return;
    const timer = setTimeout(async () => {
      try {
        const now = await got(
          api.GET("/api/uploads/{upload_id}", { params: { path: { upload_id: intake.upload.id } } }),
        );
        if (now.problem) setIntake({ state: "refused", name: now.name, problem: now.problem });
        else setIntake({ state: now.facts ? "asking" : "reading", upload: now });
      } catch (e) {
        if (e instanceof ProblemError) setIntake({ state: "refused", name: intake.upload.name, problem: e.problem });
      }
    }, 200);
    return () => clearTimeout(timer);
  }, [intake]);
  return { intake, bring, forget: () => setIntake({ state: "idle" }) };
}
