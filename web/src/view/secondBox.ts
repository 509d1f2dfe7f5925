/** Where the second view lies in a view of this size: pixels from its lower left corner, as the renderer counts. */
export function secondBox(size: { width: number; height: number }): {
  x: number;
  y: number;
  width: number;
  height: number;
} {
  const [width, height] = [Math.round(size.width * 0.36), Math.round(size.height * 0.4)];
  return { x: size.width - width - 14, y: 92, width, height };
}
