import type { Job } from "../api/client";
import { StageBench } from "../parts/StageBench";

export function Inspect({ job }: { job: Job }) {
  return (
    <StageBench
      job={job}
      stage="inspect"
      words="Show each pattern on the device and photograph the whole panel, sharp and not over-exposed. Turn night mode and adaptive tint off."
    />
  );
}
