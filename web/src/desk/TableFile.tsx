import { Button } from "antd";
import { FileDoor } from "../intake/FileDoor";
import { accept } from "../intake/files";
import { useSendFile } from "../intake/useSendFile";
import { useBench } from "../job/context";

/** The readings as a table in and out. */
export function TableFile() {
  const { job, tell } = useBench();
  const send = useSendFile();
  return (
    <>
      <Button href={`/api/jobs/${job.id}/readings.csv`} download="readings.csv">
        Save as a table
      </Button>
      <FileDoor
        label="Table of readings"
        accept={accept("table")}
        onFiles={([one]) => one && void send("readings.csv", one).catch(tell)}
      >
        Bring a table in
      </FileDoor>
    </>
  );
}
