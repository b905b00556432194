/** A key that makes one photo one photo, however often it is sent. Works on plain pages too, unlike crypto.randomUUID. */
export function newKey(): string {
  const bytes = new Uint8Array(16);
  crypto.getRandomValues(bytes);
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}
