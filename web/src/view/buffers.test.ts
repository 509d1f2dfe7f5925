import { describe, expect, it } from "vitest";
import { parseBuffers, parseNpyFloats, unpackU4 } from "./buffers";

function sample(): ArrayBuffer {
  const head = {
    version: 1,
    origin: [1, 2, 3],
    sections: { positions: { dtype: "f4", offset: 0, count: 3 }, indices: { dtype: "u4", offset: 16, count: 3 } },
  };
  let text = JSON.stringify(head);
  text = text.padEnd(Math.ceil((text.length + 8) / 8) * 8 - 8, " ");
  const data = new ArrayBuffer(8 + text.length + 32);
  const bytes = new Uint8Array(data);
  bytes.set(new TextEncoder().encode("UCV1"));
  new DataView(data).setUint32(4, text.length, true);
  bytes.set(new TextEncoder().encode(text), 8);
  new Float32Array(data, 8 + text.length, 3).set([4, 5, 6]);
  new Uint32Array(data, 8 + text.length + 16, 3).set([0, 1, 2]);
  return data;
}

describe("view buffers", () => {
  it("reads sections and origin", () => {
    const b = parseBuffers(sample());
    expect(b.origin).toEqual([1, 2, 3]);
    expect([...b.f4("positions")]).toEqual([4, 5, 6]);
    expect([...b.u4("indices")]).toEqual([0, 1, 2]);
    expect(() => b.f4("nothing")).toThrow(/nothing/);
  });
  it("refuses what is no buffer", () => {
    expect(() => parseBuffers(new ArrayBuffer(16))).toThrow(/no view buffer/);
    expect(() => parseNpyFloats(new ArrayBuffer(200))).toThrow(/float32/);
  });
  it("unpacks base64 numbers", () => {
    expect([...unpackU4(btoa("\x01\x00\x00\x00\x00\x01\x00\x00"))]).toEqual([1, 256]);
  });
});
