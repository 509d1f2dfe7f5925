import { useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useRef } from "react";
import { csrfToken, ProblemError } from "../api/client";
import { asJob } from "../api/queries";
import { useBench } from "../job/context";

/** The readings as a table in and out. */
export function TableFile() {
  const { job, tell } = useBench();
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const address = `/api/jobs/${job.id}/readings.csv`;
  const bring = async (chosen: File) => {
    const form = new FormData();
    form.append("file", chosen);
    try {
      const answer = await fetch(`${address}?version=${job.version}`, {
        method: "POST",
        headers: { "X-CSRFToken": csrfToken() },
        body: form,
      });
      const body = await answer.json();
      if (!answer.ok) throw new ProblemError(body.problem, answer.status);
      client.setQueryData(["job", job.id], asJob(body));
    } catch (e) {
      tell(e);
    }
  };
  return (
    <>
      <Button href={address} download="readings.csv">
        Save as a table
      </Button>
      <Button onClick={() => file.current?.click()}>Bring a table in</Button>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="Table of readings"
        accept=".csv,text/csv"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void bring(chosen);
          e.target.value = "";
        }}
      />
    </>
  );
}
