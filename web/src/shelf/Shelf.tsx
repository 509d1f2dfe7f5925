import { Button, Progress } from "antd";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { meshFile, solidFile } from "../api/evidence";
import { useShelf } from "../api/queries";
import { Brand } from "../ui/Brand";
import { ProblemNote } from "../ui/ProblemNote";
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
  const file = useRef<HTMLInputElement>(null);
  const go = useNavigate();
  const beginBare = useNewJob();
  const upload = intake.state === "asking" ? intake.upload : null;
  const [solid, mesh] = [solidFile(upload?.facts), meshFile(upload?.facts)];
  const asked = {
    upload: upload!,
    onCancel: forget,
    onDone: (id: string) => {
      forget();
      go(`/jobs/${id}`);
    },
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
        const dropped = e.dataTransfer.files[0];
        if (dropped) void bring(dropped);
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
          <p className="quiet">Open a job, or drop a scan or a solid anywhere here to begin a new one.</p>
        </div>
        <div className="cards">
          <div className="drop">
            {intake.state === "refused" ? (
              <>
                <b>{intake.name}</b>
                <ProblemNote problem={intake.problem} />
                <Button onClick={forget}>Try another file</Button>
              </>
            ) : busy ? (
              <Waiting intake={intake} />
            ) : (
              <>
                <svg className="drop-mark" viewBox="0 0 48 48" aria-hidden="true">
                  <path d="M8 34 L16 14 L32 10 L41 27 L26 40 Z M16 14 L26 40 M32 10 L24 26 L8 34 M24 26 L41 27" />
                </svg>
                <h3>New job</h3>
                <p className="quiet">Drop a scan or a solid here</p>
                <Button type="primary" onClick={() => file.current?.click()}>
                  Choose a file
                </Button>
                <p className="quiet small">STL, OBJ, PLY, 3MF, STEP or IGES, up to 500 MB</p>
                <button type="button" className="link small" onClick={() => void beginBare()}>
                  or begin with readings alone
                </button>
              </>
            )}
            <input
              ref={file}
              type="file"
              accept=".stl,.obj,.ply,.3mf,.gz,.zip,.step,.stp,.iges,.igs"
              hidden
              aria-label="Scan file"
              onChange={(e) => {
                const chosen = e.target.files?.[0];
                e.target.value = "";
                if (chosen) void bring(chosen);
              }}
            />
          </div>
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
