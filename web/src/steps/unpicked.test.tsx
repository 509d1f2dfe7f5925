import { render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { Unpicked } from "./Unpicked";

const problem = {
  code: "bad-params" as const,
  message: "no face is chosen that is to be brought to the lead face",
  got: "nothing",
  remedy: "point at the faces that are to be level with it",
};

it("says what is to be picked next, without calling it a fault", () => {
  render(<Unpicked problem={problem} onTake={vi.fn()} />);
  expect(screen.getByText("To go on, point at the faces that are to be level with it.")).toBeTruthy();
  expect(screen.queryByRole("alert")).toBeNull();
  expect(screen.queryByRole("button")).toBeNull();
});

it("takes all that offers itself at once, whatever it is made of", () => {
  const faces = [{ body: "b", name: "pad1.end[p1]", kind: "plane", beside: ["pad1.side[e1]"] }];
  const take = vi.fn();
  render(
    <Unpicked
      problem={{ ...problem, offer: { text: "Take the face within 1 mm of it", choices: { faces } } }}
      onTake={take}
    />,
  );
  screen.getByRole("button", { name: "Take the face within 1 mm of it" }).click();
  expect(take).toHaveBeenCalledExactlyOnceWith({ faces });
});
