import { Box, Typography } from "@mui/material";
import { useWhen } from "../api/hooks";
import { useRecord } from "../api/job";
import { ErrorNote } from "./notes";

/** Who did what and when. */
export function RecordList({ jobId }: { jobId: number }) {
  const when = useWhen();
  const record = useRecord(jobId);
  return (
    <Box component="details">
      <Typography
        component="summary"
        sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center", fontWeight: 600 }}
      >
        Record of this job
      </Typography>
      <ErrorNote error={record.error} />
      {record.data
        ?.slice()
        .reverse()
        .map((entry) => (
          <Box key={entry.id} sx={{ py: 0.5, borderTop: 1, borderColor: "divider" }}>
            <Typography variant="body2" sx={{ overflowWrap: "anywhere" }}>
              {entry.text}
            </Typography>
            <Typography variant="caption" color="textSecondary">
              {entry.who}, {when(entry.at)}
            </Typography>
          </Box>
        ))}
    </Box>
  );
}
