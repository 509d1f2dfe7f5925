import type { KindView } from "./kindView";

/** One that is as wide and as long as what it stands on says what that is. */
const instead: KindView["instead"] = (params, nameOf) => {
  const own = params.as_found && (params.form ?? "cylinder") === "cylinder";
  const id = (params.axis as { id?: string } | null)?.id;
  return own ? (id ? `as ${nameOf(id)}` : "as found") : null;
};

export const view: KindView = { instead };
