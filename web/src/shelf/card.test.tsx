import { render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { describe, expect, it } from "vitest";
import type { Card } from "../api/client";
import { JobCard } from "./JobCard";

const job: Card = {
  id: "a",
  name: "Pump cover",
  changed: new Date().toISOString(),
  scans: 1,
  steps: 9,
  bodies: 1,
  closed: 1,
  failing: 0,
  inside_share: 0.88,
  acceptance_mm: 0.1,
  unit: "mm",
  picture: null,
};

const shown = (part: Partial<Card>) =>
  render(
    <MemoryRouter>
      <JobCard job={{ ...job, ...part }} />
    </MemoryRouter>,
  );

describe("a job on the shelf", () => {
  it.each([
    [{}, "ends in a closed solid"],
    [{ bodies: 2, closed: 2 }, "ends in 2 closed solids"],
    [{ closed: 0 }, "open bodies"],
    [{ failing: 1 }, "one step does not come out"],
    [{ failing: 3, closed: 0 }, "3 steps do not come out"],
  ])("says what it ends in: %o", (part, said) => {
    shown(part);
    expect(screen.getByText(said)).toBeInTheDocument();
  });

  it("says nothing of that before there is a body", () => {
    shown({ bodies: 0, closed: 0, inside_share: null });
    shown({ closed: null }); // nor where an earlier version has written the card
    expect(screen.queryByText(/closed|open|come out/)).toBeNull();
  });
});
