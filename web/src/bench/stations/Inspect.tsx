import { Typography } from "@mui/material";
import type { Job } from "../api/client";
import { PhotoBench } from "../parts/PhotoBench";

export function Inspect({ job }: { job: Job }) {
  return (
    <>
      <Typography sx={{ mb: 1.5 }}>Show each pattern on the device and photograph the whole panel, sharp and not over-exposed. Turn night mode and adaptive tint off.</Typography>
      <PhotoBench job={job} stage="inspect" />
    </>
  );
}
