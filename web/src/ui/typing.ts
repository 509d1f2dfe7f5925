/** Inputs that letters mean nothing to: a key pressed on them is meant for the bench. */
const MUTE = new Set(["radio", "checkbox", "range", "button", "submit", "file"]);

/** Whether what is pressed goes into a field. No React. */
export function isTyping(target: EventTarget | null): boolean {
  if (target instanceof HTMLTextAreaElement) return true;
  return target instanceof HTMLInputElement && !MUTE.has(target.type);
}
