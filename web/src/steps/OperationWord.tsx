import { Button } from "antd";
import { useEffect, useRef } from "react";
import { useBench } from "../job/context";
import type { PartProps } from "./kindView";
import { usePassing } from "./passing";
import { isFollowed, newestFacts, proposalOf, useFollowed } from "./proposal";

const SAID = {
  add: "It goes out of the material and adds to it.",
  subtract: "It goes into the material and takes it away.",
};

/** What the direction suggests, in words; followed by itself until somebody chooses. */
export function OperationWord({ params, step, state, onChange }: PartProps) {
  const { job } = useBench();
  const { passing, refused } = usePassing();
  const proposes = proposalOf(step ? state?.facts : newestFacts(passing, job.recipe.steps), step ? null : refused);
  const operation = params.operation as string;
  const drafted = !step;
  const first = useRef(operation);
  useEffect(() => {
    if (!drafted) return undefined;
    useFollowed.setState({ last: first.current });
    return () => useFollowed.setState({ last: null });
  }, [drafted]);
  const last = useFollowed((s) => s.last);
  const follows = drafted && isFollowed(operation, last);
  useEffect(() => {
    if (!follows || !proposes || proposes === operation) return;
    useFollowed.setState({ last: proposes });
    onChange({ operation: proposes });
  }, [follows, proposes, operation, onChange]);
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
