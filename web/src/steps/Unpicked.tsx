import { Button } from "antd";
import type { Problem } from "../api/client";

interface Props {
  problem: Problem;
  onTake: (choices: Record<string, unknown>) => void;
}

/** What is to be picked next, which is no fault, and what offers itself for it. */
export function Unpicked({ problem, onTake }: Props) {
  const { offer } = problem;
  return (
    <>
      <p className="quiet">{`To go on, ${problem.remedy}.`}</p>
      {offer && (
        <Button size="small" onClick={() => onTake(offer.choices)}>
          {offer.text}
        </Button>
      )}
    </>
  );
}
