import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { App } from "antd";
import { MemoryRouter } from "react-router";
import { beforeEach, describe, expect, it } from "vitest";
import type { Job } from "../api/queries";
import { useBench } from "../job/context";
import { BenchProvider } from "../shell/BenchProvider";
import { resetBench } from "../shell/reset";
import { usePassing } from "../steps/passing";
import { answering, sampleJob } from "../test/bench";
import { light } from "../theme";
import { useShownBodies } from "./useShownBodies";

const params = { distance: { text: "12 mm", mark: "assumed" } };
const previewed = [{ id: "x", key: "p", colour: null, view: "AAAA", names: [], fresh: [] }];

function Shown() {
  const { edit } = useBench();
  const bodies = useShownBodies();
  return (
    <>
      <p>{bodies.map((b) => (b.view ? "as previewed" : b.key)).join(", ")}</p>
      <button type="button" onClick={() => void edit({ op: "set-params", step: "x", params })}>
        keep
      </button>
    </>
  );
}

function bench(job: Job) {
  const client = new QueryClient();
  client.setQueryData(["job", "j"], job);
  return (
    <QueryClientProvider client={client}>
      <App>
        <MemoryRouter>
          <BenchProvider job={job} palette={light}>
            <Shown />
          </BenchProvider>
        </MemoryRouter>
      </App>
    </QueryClientProvider>
  );
}

const at = (revision: number, status: Job["build"]["status"]) => {
  const job = sampleJob();
  return { ...job, revision, build: { ...job.build, status } };
};

async function kept(settled: unknown, revision = 8) {
  const log = answering(() => at(revision, "queued"));
  usePassing.setState({ preview: previewed, settled });
  const { rerender } = render(bench(at(7, "done")));
  expect(screen.getByText("as previewed")).toBeInTheDocument();
  await userEvent.click(screen.getByText("keep"));
  usePassing.setState({ preview: null });
  await waitFor(() => expect(log).toHaveLength(1));
  return (job: Job) => rerender(bench(job));
}

describe("the bodies on the bench after a change", () => {
  beforeEach(resetBench);

  it("stay as they were previewed until the change is built", async () => {
    const now = await kept(params);
    now(at(8, "running"));
    expect(screen.getByText("as previewed")).toBeInTheDocument();
    now(at(8, "done"));
    expect(screen.getByText("k3")).toBeInTheDocument();
  });

  it("are those of the job when something else was previewed", async () => {
    await kept({ distance: { text: "11 mm", mark: "assumed" } });
    expect(await screen.findByText("k3")).toBeInTheDocument();
  });

  it("are those of the job when it has gone back meanwhile", async () => {
    const now = await kept(params);
    await waitFor(() => expect(usePassing.getState().awaited?.revision).toBe(8));
    now(at(7, "queued"));
    expect(screen.getByText("k3")).toBeInTheDocument();
  });
});
