/** Step kinds as they declare themselves; the step sheet is made from this alone. */
import { useQuery } from "@tanstack/react-query";
import { api, got } from "./client";

export type Dimension = "length" | "angle" | "number";
export type RefKind = "scan" | "region" | "sketch" | "body" | "plane" | "axis" | "point" | "place" | "surface";
type Conditions = Record<string, unknown[]>;

export type Field = {
  name: string;
  label: string;
  help: string;
  /** Shown only while other fields have one of these values. */
  when: Conditions;
  /** Fields of one fold are put away together until one of them says something. */
  fold: string;
  optional: boolean;
  fallback: unknown;
} & (
  | { type: "value"; dimension: Dimension }
  | { type: "choice"; options: string[] }
  | { type: "switch" }
  /** faces: a face of a body will do as well. */
  | { type: "ref"; ref: RefKind; faces: boolean }
  | { type: "refs"; ref: RefKind }
  | { type: "face" }
  | { type: "spot" }
  | { type: "words" }
);

interface Schema {
  [key: string]: unknown;
  anyOf?: Schema[];
  items?: Schema;
  $ref?: string;
}

export interface Kind {
  id: string;
  title: string;
  help: string;
  makes: string;
  keyValue: string;
  fields: Field[];
}

const words = (name: string) => name.replaceAll("_", " ").replace(/^./, (c) => c.toUpperCase());

function field(name: string, schema: Schema): Field | null {
  const inner = schema.anyOf ?? [];
  const options = [schema, ...inner, ...inner.flatMap((o) => o.anyOf ?? [])];
  const hint = (key: string, among: Schema[] = options) => among.find((o) => key in o)?.[key];
  const common = {
    name,
    label: words(name),
    help: String(schema.description ?? ""),
    when: (schema.when as Conditions | undefined) ?? {},
    fold: String(schema.fold ?? ""),
    optional: options.some((o) => o.type === "null"),
    fallback: schema.default ?? null,
  };
  if (hint("dimension")) return { ...common, type: "value", dimension: hint("dimension") as Dimension };
  if (hint("enum")) return { ...common, type: "choice", options: hint("enum") as string[] };
  if (hint("type") === "boolean") return { ...common, type: "switch" };
  if (hint("ref"))
    return {
      ...common,
      type: "ref",
      ref: hint("ref") as RefKind,
      faces: options.some((o) => o.$ref?.endsWith("/FaceRef")),
    };
  if (schema.items?.ref) return { ...common, type: "refs", ref: schema.items.ref as RefKind };
  if (options.some((o) => o.$ref?.endsWith("/FaceRef"))) return { ...common, type: "face" };
  if (options.some((o) => o.$ref?.endsWith("/ScanSpot"))) return { ...common, type: "spot" };
  if (hint("type") === "string") return { ...common, type: "words" };
  return null; // facets, loops, pairs: chosen in the view, shown by parts of their own
}

export function readKinds(data: Record<string, unknown>): Record<string, Kind> {
  const out: Record<string, Kind> = {};
  for (const [id, raw] of Object.entries(data)) {
    const kind = raw as Record<string, unknown>;
    const properties = (kind.schema as { properties: Record<string, Schema> }).properties;
    const fields = Object.entries(properties).map(([name, schema]) => field(name, schema));
    out[id] = {
      id,
      title: String(kind.title),
      help: String(kind.help),
      makes: String(kind.makes),
      keyValue: String(kind.key_value),
      fields: fields.filter((f): f is Field => f !== null),
    };
  }
  return out;
}

export function useKinds(): Record<string, Kind> {
  const { data } = useQuery({
    queryKey: ["kinds"],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () => readKinds(await got(api.GET("/api/jobs/kinds"))),
  });
  return data ?? {};
}

/** Whether a field matters, given the others. */
export function isShown(f: Field, kind: Kind, params: Record<string, unknown>): boolean {
  return Object.entries(f.when).every(([other, wanted]) => {
    const fallback = kind.fields.find((g) => g.name === other)?.fallback;
    return wanted.includes(params[other] ?? fallback);
  });
}
