/** Whether a scan shows its outside wherever one stands. No React. */
import { type BufferGeometry, Vector3 } from "three";

/** Of the whole skin, that one direction may have too much of: more, and there is no skin on the other side. */
const ONE_SIDED = 0.1;

/** Whether a surface goes all round, but for holes, and faces outwards: not a part scanned from above, nor one that is inside out. */
export function showsItsOutside(surface: BufferGeometry): boolean {
  const { index } = surface;
  const at = surface.getAttribute("position");
  if (!index || !at || index.count === 0) return false;
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  const middle = new Vector3().fromBufferAttribute(at, index.getX(0));
  const sum = new Vector3();
  let area = 0;
  let volume = 0;
  for (let i = 0; i < index.count; i += 3) {
    a.fromBufferAttribute(at, index.getX(i)).sub(middle);
    b.fromBufferAttribute(at, index.getX(i + 1)).sub(middle);
    c.fromBufferAttribute(at, index.getX(i + 2)).sub(middle);
    const outward = b.sub(a).cross(c.sub(a));
    area += outward.length();
    volume += a.dot(outward);
    sum.add(outward);
  }
  return volume > 0 && sum.length() < ONE_SIDED * area;
}
