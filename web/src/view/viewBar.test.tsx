import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";
import { onBench, sampleJob } from "../test/bench";
import { ViewBar } from "./ViewBar";

it("the fitted view gives the keyboard back to what is being prepared, unless it was the keyboard that asked for it", async () => {
  const home = vi.fn();
  onBench(<ViewBar onHome={home} reduced={null} />, sampleJob());
  const fit = screen.getByRole("button", { name: "Fit view" });
  await userEvent.click(fit);
  expect(home).toHaveBeenCalledTimes(1);
  expect(fit).not.toHaveFocus();
  fit.focus();
  await userEvent.keyboard("{Enter}");
  expect(home).toHaveBeenCalledTimes(2);
  expect(fit).toHaveFocus();
});
