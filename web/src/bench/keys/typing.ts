/** True when a key belongs to a field, not to the bench. */
export function typing(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  // a choice is made with the space bar and the arrows; every other key is the bench's
  if (target instanceof HTMLInputElement && ["radio", "checkbox"].includes(target.type))
    return event.key === " " || event.key.startsWith("Arrow");
  const field = ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName);
  return (
    target.isContentEditable || field || ["combobox", "slider", "option"].includes(target.getAttribute("role") ?? "")
  );
}
