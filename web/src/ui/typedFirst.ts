import { type RefObject, useRef } from "react";

/** For the field of a dialog that is typed in first. `autoFocus` alone is lost where nothing moves: the dialog then comes into the page only
 * after its fields have been made. */
export function useTypedFirst<Field extends { focus: () => void }>(): {
  first: RefObject<Field | null>;
  afterOpenChange: (open: boolean) => void;
} {
  const first = useRef<Field>(null);
  return { first, afterOpenChange: (open) => (open ? first.current?.focus() : undefined) };
}
