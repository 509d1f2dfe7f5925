import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { WorkOut } from "../api/client";
import { answering, onBench } from "../test/bench";
import { lasting } from "../units";
import { resetBench } from "./reset";
import { WorkList } from "./WorkList";

const work = (part: Partial<WorkOut>): WorkOut => ({
  id: "w",
  kind: "segment",
  title: "finding regions",
  job: "j",
  job_name: "Test block",
  status: "running",
  doing: "growing planes",
  since_s: 12,
  share: 0.25,
  left_s: 36,
  ...part,
});

describe("what is under way", () => {
  beforeEach(resetBench);

  it("takes no room while nothing is", async () => {
    const asked = answering(() => []);
    onBench(<WorkList />);
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("says what it does, how far it is and what is left, and where it belongs when that is another job", async () => {
    answering(() => [
      work({}),
      work({
        id: "x",
        title: "writing STEP",
        job: "k",
        job_name: "Winch",
        status: "queued",
        doing: "",
        share: null,
        left_s: null,
      }),
    ]);
    onBench(<WorkList />);
    await userEvent.click(await screen.findByRole("button", { name: /2 under way/ }));
    const [own, other] = screen.getAllByRole("listitem");
    expect(own).toHaveTextContent(/growing planes.*12 s so far · about 36 s left/);
    expect(own).not.toHaveTextContent("Test block");
    expect(other).toHaveTextContent(/waiting for the worker · Winch.*12 s so far$/);
    expect(screen.getByRole("link", { name: "Winch" })).toHaveAttribute("href", "/jobs/k");
  });

  it("is stopped from there, and the list is what the server then says", async () => {
    const asked = answering(({ method }) => (method === "DELETE" ? [] : [work({})]));
    onBench(<WorkList />);
    await userEvent.click(await screen.findByRole("button", { name: /1 under way/ }));
    await userEvent.click(screen.getByRole("button", { name: "Stop finding regions" }));
    await waitFor(() => expect(asked.some((a) => a.method === "DELETE" && a.url.endsWith("/api/work/w"))).toBe(true));
    await waitFor(() => expect(screen.queryByRole("button", { name: /under way/ })).toBeNull());
  });

  it("is told in spans that one can wait by", () => {
    expect([0.2, 45, 89, 100, 3600, 9000].map(lasting)).toEqual(["1 s", "45 s", "89 s", "2 min", "60 min", "2.5 h"]);
  });
});
