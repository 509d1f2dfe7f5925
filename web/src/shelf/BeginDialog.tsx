import { Button, Input, type InputRef, Modal } from "antd";
import { type ReactNode, useState } from "react";
import { api, got, ProblemError, type UploadOut } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { useTypedFirst } from "../ui/typedFirst";
import type { Unit } from "../units";

interface Props {
  title: string;
  upload: UploadOut;
  unit: Unit;
  button: string;
  onDone: (jobId: string) => void;
  onCancel: () => void;
  children: ReactNode;
}

/** What is asked about a file before a job begins with it: its children ask, here the job is named, from the file's name, and begun. */
export function BeginDialog({ title, upload, unit, button, onDone, onCancel, children }: Props) {
  const [name, setName] = useState(upload.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " "));
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const { first, afterOpenChange } = useTypedFirst<InputRef>();
  const begin = async () => {
    try {
      const job = await got(api.POST("/api/jobs", { body: { upload: upload.id, name, unit } }));
      onDone(job.id);
    } catch (e) {
      if (e instanceof ProblemError) setProblem(e);
      else throw e;
    }
  };
  return (
    <Modal open title={title} onCancel={onCancel} footer={null} width={740} afterOpenChange={afterOpenChange}>
      {children}
      <label className="field-label" htmlFor="job-name">
        Name of the job
      </label>
      <Input
        id="job-name"
        ref={first}
        autoFocus
        value={name}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => void begin()}
      />
      {problem && <ProblemNote problem={problem.problem} />}
      <div className="sheet-actions">
        <Button type="primary" onClick={() => void begin()}>
          {button}
        </Button>
        <Button onClick={onCancel}>Not now</Button>
      </div>
    </Modal>
  );
}
