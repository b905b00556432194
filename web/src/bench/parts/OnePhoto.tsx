// The hidden field behind a button that takes one photo: the camera on a phone, a file elsewhere.

import type { Ref } from "react";

export function OnePhoto({
  label,
  ref,
  onFile,
}: {
  label: string;
  ref: Ref<HTMLInputElement>;
  onFile: (file: File) => void;
}) {
  return (
    <input
      ref={ref}
      type="file"
      hidden
      aria-label={label}
      accept="image/*"
      capture="environment"
      onChange={(event) => {
        const file = event.target.files?.[0];
        event.target.value = ""; // the same file may be chosen again
        if (file) onFile(file);
      }}
    />
  );
}
