import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Select } from "antd";
import { describe, expect, it } from "vitest";
import { useListsLetGo } from "./lettingGo";

const options = [
  { value: "rows", label: "in rows" },
  { value: "mirror", label: "mirrored" },
];

function Lists({ several }: { several: boolean }) {
  useListsLetGo();
  return <Select aria-label="How" mode={several ? "multiple" : undefined} options={options} />;
}

async function choose(label: string) {
  await userEvent.click(screen.getByRole("combobox", { name: "How" }));
  await userEvent.click(await screen.findByText(label));
}

describe("a list that was chosen from by mouse", () => {
  it("lets the keyboard go", async () => {
    render(<Lists several={false} />);
    await choose("mirrored");
    expect(screen.getByRole("combobox", { name: "How" })).not.toHaveFocus();
  });

  it("keeps it while more can be chosen", async () => {
    render(<Lists several />);
    await choose("mirrored");
    expect(screen.getByRole("combobox", { name: "How" })).toHaveFocus();
  });

  it("keeps it where the choice was made by keys", async () => {
    render(<Lists several={false} />);
    await userEvent.click(screen.getByRole("combobox", { name: "How" }));
    await userEvent.keyboard("{ArrowDown}{Enter}");
    expect(screen.getByRole("combobox", { name: "How" })).toHaveFocus();
  });
});
