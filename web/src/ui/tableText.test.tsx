import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { onBench } from "../test/bench";
import { Copyable } from "./Copyable";
import { asCsv, asText, rowsOf } from "./tableText";

const Sizes = () => (
  <>
    <table>
      <thead>
        <tr>
          <th>size</th>
          <th>is</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>bore, "worn"</td>
          <td>
            Ø 18.12 <span>± 0.02</span>
          </td>
          <td>
            <button type="button" aria-label="Delete" />
          </td>
        </tr>
        {/* biome-ignore lint/a11y/noAriaHiddenOnFocusable: tables measure their columns by such rows */}
        <tr aria-hidden="true">
          <td>measured by the browser</td>
        </tr>
        <tr>
          <td>pin</td>
          <td>
            <input defaultValue="12 mm" />
          </td>
          <td>
            <input type="checkbox" defaultChecked />
          </td>
        </tr>
      </tbody>
    </table>
    <dl>
      <div>
        <dt>rms</dt>
        <dd>0.04 mm</dd>
      </div>
    </dl>
  </>
);

describe("figures as text", () => {
  it("are what is shown, fields by what stands in them, without columns of buttons", () => {
    const { container } = render(<Sizes />);
    expect(rowsOf(container)).toEqual([
      ["size", "is"],
      ['bore, "worn"', "Ø 18.12 ± 0.02"],
      ["pin", "12 mm"],
      ["rms", "0.04 mm"],
    ]);
    expect(rowsOf(document.createElement("div"))).toEqual([]);
  });

  it("are quoted as CSV wants it, and parted by tabs as text", () => {
    expect(
      asCsv([
        ["a", 'b "c"'],
        ["1,5", "2"],
      ]),
    ).toBe('a,"b ""c"""\r\n"1,5",2\r\n');
    expect(
      asText([
        ["a", "b"],
        ["1", "2"],
      ]),
    ).toBe("a\tb\n1\t2");
  });

  it("are copied, and saved under the name of what they are", async () => {
    const user = userEvent.setup();
    const saved: Blob[] = [];
    vi.stubGlobal(
      "URL",
      Object.assign(URL, { createObjectURL: (b: Blob) => `blob:${saved.push(b)}`, revokeObjectURL: vi.fn() }),
    );
    const click = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    onBench(
      <Copyable name="sizes by source">
        <Sizes />
      </Copyable>,
    );
    await user.click(screen.getByRole("button", { name: "Copy sizes by source as text" }));
    expect(await navigator.clipboard.readText()).toContain("pin\t12 mm");
    await user.click(screen.getByRole("button", { name: "Save sizes by source as CSV" }));
    expect((click.mock.contexts[0] as HTMLAnchorElement).download).toBe("sizes-by-source.csv");
    expect(await saved[0]!.text()).toContain("rms,0.04 mm");
  });
});
