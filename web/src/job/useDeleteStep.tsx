import { App, Button } from "antd";
import { api, got, type Step } from "../api/client";
import { useBench } from "./context";

/** Deletes a step; where others hang on it, what becomes of them is asked first. */
export function useDeleteStep(): (step: Step) => Promise<void> {
  const { job, edit, tell } = useBench();
  const { modal } = App.useApp();
  const take = (step: Step, with_dependents: boolean) =>
    void edit({ op: "delete-step", step: step.id, with_dependents });
  return async (step) => {
    const path = { job_id: job.id, step: step.id };
    try {
      const hanging = await got(api.GET("/api/jobs/{job_id}/steps/{step}/dependents", { params: { path } }));
      if (hanging.length === 0) return take(step, false);
      const answer = (all: boolean) => {
        asked.destroy();
        take(step, all);
      };
      const asked = modal.confirm({
        title: `${hanging.length} ${hanging.length === 1 ? "step hangs" : "steps hang"} on '${step.name}'`,
        content: <p>{hanging.map((s) => s.name).join(", ")}</p>,
        icon: null,
        footer: () => (
          <div className="modal-actions">
            <Button danger onClick={() => answer(true)}>
              Delete all {hanging.length + 1}
            </Button>
            <Button onClick={() => answer(false)}>Delete only this one and repair them</Button>
            <Button onClick={() => asked.destroy()}>Cancel</Button>
          </div>
        ),
      });
    } catch (e) {
      tell(e);
    }
  };
}
