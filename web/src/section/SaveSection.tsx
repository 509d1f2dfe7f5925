import { Button } from "antd";
import { useState } from "react";
import { csrfToken, ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { saveAs } from "../ui/saveAs";
import type { SectionDraft } from "./draft";
import { sectionOf } from "./useSection";

/** The section as a flat file: its pieces, and the cut as the scan has it on a layer of its own. */
export function SaveSection({ draft }: { draft: SectionDraft }) {
  const { job, scanKey, tell } = useBench();
  const [busy, setBusy] = useState("");
  const save = async (kind: string) => {
    setBusy(kind);
    try {
      const answer = await fetch(`/api/jobs/${job.id}/section/flat.${kind}`, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
        body: JSON.stringify(sectionOf(draft, scanKey, true)),
      });
      if (!answer.ok) throw new ProblemError((await answer.json()).problem, answer.status);
      saveAs(await answer.blob(), `section.${kind}`);
    } catch (e) {
      tell(e);
    } finally {
      setBusy("");
    }
  };
  return (
    <p className="small">
      Save it as{" "}
      {["dxf", "svg"].map((kind) => (
        <Button key={kind} size="small" type="link" loading={busy === kind} onClick={() => void save(kind)}>
          {kind.toUpperCase()}
        </Button>
      ))}
    </p>
  );
}
