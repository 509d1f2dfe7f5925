/** Reads the server's binary buffers (docs/formats.md): a JSON head, then arrays at 8-byte boundaries. */
export interface Buffers {
  origin: [number, number, number];
  f4: (name: string) => Float32Array<ArrayBuffer>;
  u4: (name: string) => Uint32Array<ArrayBuffer>;
  has: (name: string) => boolean;
}

interface Head {
  version: number;
  origin: [number, number, number];
  sections: Record<string, { dtype: string; offset: number; count: number }>;
}

export function parseBuffers(data: ArrayBuffer): Buffers {
  const view = new DataView(data);
  const magic = new TextDecoder().decode(new Uint8Array(data, 0, 4));
  if (magic !== "UCV1") throw new Error("This is no view buffer.");
  const size = view.getUint32(4, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 8, size))) as Head;
  if (head.version !== 1) throw new Error(`View buffers of version ${head.version} are not known here.`);
  const find = (name: string, dtype: string) => {
    const s = head.sections[name];
    if (!s || s.dtype !== dtype) throw new Error(`The buffer has no ${dtype} section "${name}".`);
    return { at: 8 + size + s.offset, count: s.count };
  };
  return {
    origin: head.origin,
    has: (name) => name in head.sections,
    f4: (name) => {
      const { at, count } = find(name, "f4");
      return new Float32Array(data, at, count);
    },
    u4: (name) => {
      const { at, count } = find(name, "u4");
      return new Uint32Array(data, at, count);
    },
  };
}

/** float32 values of a one-dimensional NumPy file. */
export function parseNpyFloats(data: ArrayBuffer): Float32Array {
  const view = new DataView(data);
  const head = view.getUint16(8, true);
  const text = new TextDecoder().decode(new Uint8Array(data, 10, head));
  if (!text.includes("<f4")) throw new Error("The array is not float32.");
  return new Float32Array(data.slice(10 + head));
}

export function bytesOf(text: string): ArrayBuffer {
  const raw = atob(text);
  const bytes = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i);
  return bytes.buffer;
}

export const unpackU4 = (text: string) => new Uint32Array(bytesOf(text));
/** uint32 values as base64, for sending picks to the server. */
export function packU4(values: Uint32Array): string {
  const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  let text = "";
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

export const unpackF4 = (text: string) => new Float32Array(bytesOf(text));
