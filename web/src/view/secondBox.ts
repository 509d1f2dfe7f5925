/** Where the second view lies in a view of this size, in a corner or as its right half: pixels from its lower left corner, as the renderer counts. */
export function secondBox(
  size: { width: number; height: number },
  wide = false,
): {
  x: number;
  y: number;
  width: number;
  height: number;
} {
  if (wide) {
    const half = Math.round(size.width / 2);
    return { x: size.width - half, y: 0, width: half, height: Math.round(size.height) };
  }
  const [width, height] = [Math.round(size.width * 0.36), Math.round(size.height * 0.4)];
  return { x: size.width - width - 14, y: 92, width, height };
}
