/** True when a key belongs to a field, not to the bench. */
export function typing(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  const field = ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName);
  return (
    target.isContentEditable || field || ["combobox", "slider", "option"].includes(target.getAttribute("role") ?? "")
  );
}
