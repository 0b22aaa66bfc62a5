/** Is the person typing? Single keys are off then. */
export function isTyping(event: KeyboardEvent): boolean {
  const at = event.target as HTMLElement | null;
  return (
    event.metaKey ||
    event.altKey ||
    (at !== null && (/^(INPUT|TEXTAREA|SELECT)$/.test(at.tagName) || at.isContentEditable))
  );
}
