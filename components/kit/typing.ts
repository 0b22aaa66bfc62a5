/** Of an input: what takes no letters. */
const NO_LETTERS = new Set(["checkbox", "radio", "range", "button", "submit", "file"]);

/** Is the person typing? Single keys are off then. */
export function isTyping(event: KeyboardEvent): boolean {
  const at = event.target as HTMLElement | null;
  const takesLetters =
    at instanceof HTMLInputElement
      ? !NO_LETTERS.has(at.type)
      : at !== null && (/^(TEXTAREA|SELECT)$/.test(at.tagName) || at.isContentEditable === true);
  return event.metaKey || event.altKey || takesLetters;
}
