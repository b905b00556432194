// How an entry of the registers, a profile or a house rule came to say what it says.

import { Box, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, got, type PastVersion } from "../api/client";
import { dayWords } from "../jobs/days";
import { ErrorNote } from "./notes";

const SUMMARY = { cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" } as const;

type Kept = "panel" | "device" | "supplier" | "profile" | "rule";

const load = (kind: Kept, id: number | string) =>
  kind === "profile"
    ? client.GET("/api/profiles/{profile_id}/history", { params: { path: { profile_id: String(id) } } })
    : kind === "rule"
      ? client.GET("/api/house-rules/{name}/history", { params: { path: { name: String(id) } } })
      : client.GET("/api/history/{kind}/{row_id}", { params: { path: { kind, row_id: Number(id) } } });

/** `version` is that which is shown, so that a change reads the history anew; `names` is what fields are called on the screen. */
export function History({
  kind,
  id,
  version,
  names = {},
}: {
  kind: Kept;
  id: number | string;
  version: number | string;
  names?: Readonly<Record<string, string>>;
}) {
  const past = useQuery({
    queryKey: ["history", kind, id, version],
    queryFn: () => got<PastVersion[]>(load(kind, id)),
  });
  if (past.isError) return <ErrorNote error={past.error} />;
  if (!past.data?.length) return null;
  return (
    <Box component="details" sx={{ mt: 1 }}>
      <Box component="summary" sx={SUMMARY}>
        History: {past.data.length === 1 ? "entered once" : `${past.data.length} versions`}
      </Box>
      {past.data.map((one) => (
        <Box key={one.version} sx={{ mb: 1 }}>
          <Typography variant="body2" sx={{ fontWeight: 600 }}>
            {dayWords(one.at.slice(0, 10))}, {one.by}
          </Typography>
          {one.changes.map((change) => (
            <Typography key={change.field} variant="body2" sx={{ overflowWrap: "anywhere" }}>
              {names[change.field] ?? change.field.replaceAll("_", " ")}: {change.before && <s>{change.before}</s>}{" "}
              {change.after || "removed"}
            </Typography>
          ))}
          {one.changes.length === 0 && (
            <Typography variant="body2" color="textSecondary">
              Saved without a change.
            </Typography>
          )}
        </Box>
      ))}
    </Box>
  );
}
