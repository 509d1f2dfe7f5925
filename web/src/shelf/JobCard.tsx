import { Link } from "react-router";
import type { Card } from "../api/client";
import { length, share, type Unit } from "../units";

function ago(iso: string): string {
  const minutes = (Date.now() - new Date(iso).getTime()) / 60_000;
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${Math.floor(minutes)} min ago`;
  if (minutes < 48 * 60) return `${Math.floor(minutes / 60)} h ago`;
  return new Date(iso).toLocaleDateString("en", { day: "numeric", month: "short", year: "numeric" });
}

/** What the job ends in: solids that can leave it, or steps to be mended first. */
function outcomeOf(job: Card): string | null {
  if (job.failing) return job.failing === 1 ? "one step does not come out" : `${job.failing} steps do not come out`;
  if (!job.bodies || job.closed == null) return null;
  if (job.closed < job.bodies) return "open bodies";
  return job.closed === 1 ? "ends in a closed solid" : `ends in ${job.closed} closed solids`;
}

export function JobCard({ job }: { job: Card }) {
  const fit =
    job.inside_share === null || job.inside_share === undefined
      ? job.bodies
        ? `${job.bodies === 1 ? "one body" : `${job.bodies} bodies`}`
        : job.steps
          ? "no body yet"
          : job.scans
            ? "scan only"
            : "readings only"
      : `${share(job.inside_share)} inside ±${length(job.acceptance_mm, job.unit as Unit)}`;
  const outcome = outcomeOf(job);
  return (
    <Link to={`/jobs/${job.id}`} className="job-card" data-job={job.id}>
      <div className="job-picture">
        {job.picture ? (
          <img src={job.picture} alt={`${job.name}, rendered`} />
        ) : (
          <span className="quiet">{job.scans || job.steps ? "preparing …" : "no scan: see its readings"}</span>
        )}
      </div>
      <div className="job-text">
        <h3>{job.name}</h3>
        <div className="figures">{fit}</div>
        {outcome && <div className={job.failing ? "failing" : "quiet"}>{outcome}</div>}
        <div className="quiet">
          {job.steps === 0 ? "not begun" : `${job.steps} ${job.steps === 1 ? "step" : "steps"}`} · {ago(job.changed)}
        </div>
      </div>
    </Link>
  );
}
