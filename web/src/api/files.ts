import { api, got } from "./client";

/** Keep a file for a step or a piece of evidence of a job; refused when the kernel cannot read it. */
export function keepFile(job: string, file: File): Promise<{ blob: string; name: string }> {
  return got(
    api.POST("/api/jobs/{job_id}/files", {
      params: { path: { job_id: job } },
      body: { file: file.name },
      // The schema knows a file as text: what is sent is the file itself.
      bodySerializer: () => {
        const form = new FormData();
        form.append("file", file);
        return form;
      },
    }),
  );
}
