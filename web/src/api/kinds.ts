/** What the core declares of itself: kinds of steps with their fields, kinds of references. Nothing of it is repeated here. */
import { useQuery } from "@tanstack/react-query";
import { api, got } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Declarations = Schemas["DeclarationsOut"];
export type Kind = Schemas["KindOut"];
export type ReferenceKind = Schemas["ReferenceOut"];
export type Field = Schemas["FieldSpec"];
export type Dimension = NonNullable<Field["dimension"]>;

const NONE: Declarations = {
  kinds: {},
  references: {},
  units: {},
  dimensions: [],
  marks: [],
  problems: {},
  materials: {},
};

export function useDeclarations(): Declarations {
  const { data } = useQuery({
    queryKey: ["declarations"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => got(api.GET("/api/declarations")),
  });
  return data ?? NONE;
}

export const useKinds = (): Record<string, Kind> => useDeclarations().kinds;

/** Whether a field matters, given the others; what stands in one that does not matter itself says nothing. */
export function isShown(f: Field, kind: Kind, params: Record<string, unknown>): boolean {
  return Object.entries(f.when).every(([other, wanted]) => {
    const decides = kind.fields.find((g) => g.name === other);
    const said = decides && !isShown(decides, kind, params) ? undefined : params[other];
    return wanted.includes(said ?? decides?.fallback);
  });
}
