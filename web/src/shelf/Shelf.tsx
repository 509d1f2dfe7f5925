import { Button, Progress } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { meshFile, solidFile } from "../api/evidence";
import { useShelf } from "../api/queries";
import { firstOf, sortOf } from "../intake/files";
import { useWaiting } from "../intake/waiting";
import { Brand } from "../ui/Brand";
import { ProblemNote } from "../ui/ProblemNote";
import { Doors } from "./Doors";
import { JobCard } from "./JobCard";
import { SolidQuestion } from "./SolidQuestion";
import { UnitQuestion } from "./UnitQuestion";
import { type Intake, useIntake } from "./useIntake";
import { useNewJob } from "./useNewJob";

function Waiting({ intake }: { intake: Intake }) {
  if (intake.state === "sending")
    return <Progress percent={Math.round(intake.part * 100)} format={() => `sending ${intake.name}`} />;
  if (intake.state === "reading") return <p>reading {intake.upload.name} …</p>;
  return null;
}

/** The jobs, and a place to drop a new scan. */
export function Shelf({ user }: { user: string }) {
  const { data: jobs } = useShelf();
  const { intake, bring, forget } = useIntake();
  const [over, setOver] = useState(false);
  const go = useNavigate();
  const beginBare = useNewJob();
  const upload = intake.state === "asking" ? intake.upload : null;
  const [solid, mesh] = [solidFile(upload?.facts), meshFile(upload?.facts)];
  const asked = {
    upload: upload!,
    onCancel: () => {
      useWaiting.getState().take();
      forget();
    },
    onDone: (id: string) => {
      forget();
      go(`/jobs/${id}`);
    },
  };
  /** The first scan or solid begins the job; what was dropped with it follows onto its bench. */
  const take = (files: File[]) => {
    const { first, rest } = firstOf(files);
    useWaiting.getState().wait(rest);
    if (first) void bring(first);
    else if (rest.some((f) => sortOf(f.name))) void beginBare();
    else if (files[0]) void bring(files[0]); // what it is not is told by whoever reads it
  };
  const busy = intake.state === "sending" || intake.state === "reading";
  return (
    <main
      className={`shelf${over ? " over" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        take([...e.dataTransfer.files]);
      }}
    >
      <header className="top">
        <Brand />
        <div className="top-gap" />
        <span className="quiet">signed in as {user}</span>
      </header>
      <div className="shelf-body">
        <div className="shelf-head">
          <h1>Parts on the shelf</h1>
          <p className="quiet">
            Open a job below, or begin a new one: drop its files anywhere here, several at once if you like.
          </p>
        </div>
        <div className="doors-row">
          {intake.state === "refused" ? (
            <div className="door-said">
              <b>{intake.name}</b>
              <ProblemNote problem={intake.problem} />
              <Button onClick={forget}>Try another file</Button>
            </div>
          ) : busy ? (
            <div className="door-said" role="status">
              <Waiting intake={intake} />
            </div>
          ) : (
            <Doors busy={busy} onFiles={take} onBare={() => void beginBare()} />
          )}
        </div>
        <div className="cards">
          {(jobs ?? []).map((job) => (
            <JobCard key={job.id} job={job} />
          ))}
        </div>
      </div>
      {solid && <SolidQuestion facts={solid} {...asked} />}
      {mesh && <UnitQuestion facts={mesh} {...asked} />}
    </main>
  );
}
