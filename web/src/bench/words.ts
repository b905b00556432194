// Words that several screens share.

export const DEVICE_WORDS: Record<string, string> = {
  clamshell: "Laptop",
  handset: "Phone",
  tablet: "Tablet",
  all_in_one: "All-in-one or monitor",
};

/** With a capital letter, where words begin a line. */
export const capital = (words: string): string => words.replace(/^./, (letter) => letter.toUpperCase());
