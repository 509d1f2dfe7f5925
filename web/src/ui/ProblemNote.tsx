import { Button } from "antd";
import { useEffect } from "react";
import type { Problem } from "../api/client";
import { leavePlace } from "../view/showPlace";

interface Props {
  problem: Problem;
  onGo?: ((point: [number, number, number]) => void) | undefined;
  /** Opens the repair of what the problem is about. */
  onMend?: (() => void) | undefined;
  /** Takes what the problem offers in the place of what was chosen. */
  onTake?: ((choices: Record<string, unknown>) => void) | undefined;
}

/** A problem in place: what, where, and what to try next. */
export function ProblemNote({ problem, onGo, onMend, onTake }: Props) {
  const point = problem.where?.point;
  // What is ringed in the view is ringed as long as it is spoken of here.
  useEffect(() => () => void (point && leavePlace(point)), [point]);
  return (
    <div className="problem" role="alert">
      <div className="problem-what">{problem.message}</div>
      {(problem.got || problem.need) && (
        <div className="problem-detail">
          {problem.got && <>got {problem.got}</>}
          {problem.got && problem.need && " · "}
          {problem.need && <>needs {problem.need}</>}
        </div>
      )}
      {problem.remedy && <div className="problem-remedy">Try: {problem.remedy}</div>}
      {problem.offer && onTake && (
        <Button size="small" onClick={() => problem.offer && onTake(problem.offer.choices)}>
          {problem.offer.text}
        </Button>
      )}
      {onMend && (
        <Button size="small" type="primary" onClick={onMend}>
          Repair …
        </Button>
      )}
      {point && onGo && (
        <Button size="small" onClick={() => onGo(point)}>
          Show the place
        </Button>
      )}
    </div>
  );
}
