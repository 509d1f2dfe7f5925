import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { ProblemError } from "../api/client";
import { useJob } from "../api/queries";
import { DropAnywhere } from "../intake/DropAnywhere";
import type { Palette } from "../theme";
import { ProblemNote } from "../ui/ProblemNote";
import { BenchProvider } from "./BenchProvider";
import { resetBench } from "./reset";
import { Workbench } from "./Workbench";

export function BenchPage({ palette }: { palette: Palette }) {
  const { id = "" } = useParams();
  const { data: job, error } = useJob(id);
  useEffect(() => {
    resetBench();
    return resetBench;
  }, []);
  if (error instanceof ProblemError)
    return (
      <main className="alone">
        <ProblemNote problem={error.problem} />
        <Link to="/">Back to the shelf</Link>
      </main>
    );
  if (!job) return <main className="alone quiet">opening the job …</main>;
  return (
    <BenchProvider job={job} palette={palette}>
      <DropAnywhere>
        <Workbench />
      </DropAnywhere>
    </BenchProvider>
  );
}
