import { Button } from "antd";
import { useEffect, useRef } from "react";
import { useBench } from "../job/context";
import type { PartProps } from "./kindView";
import { usePassing } from "./passing";

const SAID = {
  add: "It goes out of the material and adds to it.",
  subtract: "It goes into the material and takes it away.",
};

/** What the direction suggests, in words; followed by itself until somebody chooses. */
export function OperationWord({ params, step, state, onChange }: PartProps) {
  const { job } = useBench();
  const { passing, refused } = usePassing();
  const newest = Object.entries(passing).find(([id]) => !job.recipe.steps.some((s) => s.id === id))?.[1];
  const facts = step ? state?.facts : newest;
  // Where what was chosen changes nothing there are no facts, but an offer of what would.
  const offered = step ? null : refused?.offer?.choices.operation;
  const told = facts && "proposes" in facts ? facts.proposes : null;
  const proposes = told ?? (offered === "add" || offered === "subtract" ? offered : null);
  const operation = params.operation as string;
  const last = useRef(operation);
  const untouched = !step && operation === last.current && (operation === "add" || operation === "subtract");
  useEffect(() => {
    if (!untouched || !proposes || proposes === operation) return;
    last.current = proposes;
    onChange({ operation: proposes });
  }, [untouched, proposes, operation, onChange]);
  if (!proposes || (operation !== "add" && operation !== "subtract")) return null;
  return (
    <p className="quiet">
      {SAID[proposes]}{" "}
      {proposes !== operation && (
        <Button size="small" onClick={() => onChange({ operation: proposes })}>
          {proposes === "add" ? "Add instead" : "Subtract instead"}
        </Button>
      )}
    </p>
  );
}
