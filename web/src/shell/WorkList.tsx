import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Popover, Progress } from "antd";
import { Link } from "react-router";
import { api, got, type WorkOut } from "../api/client";
import { useBench } from "../job/context";
import { lasting } from "../units";

const [BUSY_MS, IDLE_MS] = [1_000, 6_000];

function Row({ work, here, onStop }: { work: WorkOut; here: boolean; onStop: () => void }) {
  return (
    <li>
      <div className="work-head">
        <b>{work.title}</b>
        <Button size="small" type="link" aria-label={`Stop ${work.title}`} onClick={onStop}>
          Stop
        </Button>
      </div>
      <div className="quiet small">
        {work.status === "queued" ? "waiting for the worker" : work.doing}
        {work.job && !here && (
          <>
            {" "}
            · <Link to={`/jobs/${work.job}`}>{work.job_name}</Link>
          </>
        )}
      </div>
      {work.share !== null && <Progress size="small" percent={Math.round(100 * (work.share ?? 0))} showInfo={false} />}
      <div className="quiet small figures">
        {lasting(work.since_s)} so far
        {work.left_s != null && ` · about ${lasting(work.left_s)} left`}
      </div>
    </li>
  );
}

/** All that is under way, of this job and of others: how far it is, what is left, and a way to stop it. Nothing is shown while nothing is. */
export function WorkList() {
  const { job, tell } = useBench();
  const client = useQueryClient();
  const { data = [] } = useQuery({
    queryKey: ["work"],
    queryFn: () => got(api.GET("/api/work")),
    refetchInterval: ({ state }) => (state.data?.length || job.build.status === "running" ? BUSY_MS : IDLE_MS),
  });
  const stop = (id: string) =>
    got(api.DELETE("/api/work/{task_id}", { params: { path: { task_id: id } } }))
      .then((rest) => client.setQueryData(["work"], rest))
      .catch((e: unknown) => tell(e));
  if (!data.length) return null;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      title="Under way"
      content={
        <ul className="work-list">
          {data.map((w) => (
            <Row key={w.id} work={w} here={w.job === job.id} onStop={() => void stop(w.id)} />
          ))}
        </ul>
      }
    >
      <Button type="text">
        <span className="spin" aria-hidden="true" /> {data.length} under way
      </Button>
    </Popover>
  );
}
