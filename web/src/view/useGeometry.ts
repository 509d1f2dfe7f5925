import { useThree } from "@react-three/fiber";
import { useEffect, useState } from "react";
import { acquire, type BodyGeometry, release, type ScanGeometry } from "./geometry";

export interface Loaded<T> {
  /** Where it came from: another address than the one asked for while that loads. */
  from: string | null;
  geometry: T | null;
}

/** Geometry of a product; the former one stays while a new key loads. */
export function useGeometry<T extends ScanGeometry | BodyGeometry>(url: string | null, kind: T["kind"]): Loaded<T> {
  const [shown, setShown] = useState<Loaded<T>>({ from: null, geometry: null });
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    if (url === null) return;
    let live = true;
    acquire(url, kind)
      .then((g) => {
        if (!live) return;
        setShown({ from: url, geometry: g as T });
        invalidate();
      })
      .catch(() => undefined);
    return () => {
      live = false;
      release(url);
    };
  }, [url, kind, invalidate]);
  return shown;
}
