import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { type BodyGeometry, bodyFrom } from "./geometry";

/** Geometry of a preview's buffer. */
export function usePassingBody(view: string | null): BodyGeometry | null {
  const body = useMemo(() => (view ? bodyFrom(view) : null), [view]);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    invalidate();
    return () => {
      body?.surface.dispose();
      body?.edges.dispose();
    };
  }, [body, invalidate]);
  return body;
}
