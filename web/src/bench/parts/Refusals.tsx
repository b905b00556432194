import { ErrorNote } from "./notes";
import type { Sending } from "./sending";

/** Each file that was not taken, with its reason, until it is put away. */
export function Refusals({ sending }: { sending: Sending }) {
  return (
    <>
      {sending.failed.map((words) => (
        <ErrorNote
          key={words}
          error={new Error(words)}
          onClose={() => {
            sending.forget(words);
          }}
        />
      ))}
    </>
  );
}
