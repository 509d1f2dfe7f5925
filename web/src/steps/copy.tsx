import { Button } from "antd";
import type { Step } from "../api/client";
import { useTool } from "../sheets/tool";
import type { KindView } from "./kindView";

/** What a copy is kept for: the body can be put back to it. */
function Actions({ step }: { step: Step }) {
  const params = { body: step.params.body, copy_of_it: { id: step.id } };
  return (
    <Button onClick={() => useTool.getState().openDraft({ kind: "restore", params })}>Put the body back to this</Button>
  );
}

export const view: KindView = { Actions, hidden: true };
