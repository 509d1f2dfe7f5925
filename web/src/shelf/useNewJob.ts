import { App } from "antd";
import { useNavigate } from "react-router";
import { api, got, ProblemError } from "../api/client";

/** A job that begins without a scan: readings, photos and a drawing will do. */
export function useNewJob() {
  const go = useNavigate();
  const { message } = App.useApp();
  return async () => {
    try {
      const job = await got(api.POST("/api/jobs", { body: { upload: null, name: "By readings", unit: "mm" } }));
      go(`/jobs/${job.id}`);
    } catch (e) {
      message.error(e instanceof ProblemError ? e.message : String(e));
    }
  };
}
