// Words that several screens share.

export const DEVICE_WORDS: Record<string, string> = {
  clamshell: "Laptop",
  handset: "Phone",
  tablet: "Tablet",
  all_in_one: "All-in-one or monitor",
};
