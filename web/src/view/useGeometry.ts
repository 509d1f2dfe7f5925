import { useThree } from "@react-three/fiber";
import { useEffect, useState } from "react";
import { acquire, type BodyGeometry, release, type ScanGeometry } from "./geometry";

/** Geometry of a product; keeps showing the former one while a new key loads. */
export function useGeometry<T extends ScanGeometry | BodyGeometry>(url: string, kind: T["kind"]): T | null {
  const [shown, setShown] = useState<T | null>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    let live = true;
    acquire(url, kind)
      .then((g) => {
        if (!live) return;
        setShown(g as T);
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
