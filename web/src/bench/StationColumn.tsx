import { Box, ButtonBase, Typography } from "@mui/material";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import { StateMark } from "../theme/StateMark";
import { client, type Job, type StationId } from "./api/client";
import { useJobChange } from "./api/job";

/** A few lines of what is known; all of it stands at the station itself. */
const KNOWN = {
  display: { xs: "none", md: "-webkit-box" },
  WebkitBoxOrient: "vertical",
  WebkitLineClamp: 4,
  overflow: "hidden",
} as const;

/** The stations, always in view: a column on the bench, a strip on a narrow screen. */
export function StationColumn({ job, station }: { job: Job; station: StationId }) {
  const go = useNavigate();
  const move = useJobChange<StationId>(job.id, (to) =>
    client.POST("/api/jobs/{job_id}/station", {
      params: { path: { job_id: job.id } },
      body: { station: to, skip: false },
    }),
  );
  const here = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    here.current?.scrollIntoView({ inline: "center", block: "nearest" });
  }, [station]);
  const open = (to: StationId) => {
    void go(`/jobs/${job.id}/${to}`);
    if (!job.closed_at && to !== job.station) move.mutate(to);
  };
  return (
    <Box
      component="nav"
      aria-label="Stations"
      sx={{
        position: { md: "sticky" },
        top: 0,
        alignSelf: "start",
        minHeight: { md: "calc(100vh - 48px)" },
        display: "flex",
        flexDirection: { xs: "row", md: "column" },
        overflowX: { xs: "auto", md: "visible" },
        borderStyle: "solid",
        borderWidth: { xs: "0 0 1px", md: 0 },
        borderColor: "divider",
      }}
    >
      {job.stations.map((one, index) => (
        <ButtonBase
          key={one.id}
          ref={one.id === station ? here : undefined}
          aria-current={one.id === station ? "step" : undefined}
          onClick={() => {
            open(one.id);
          }}
          sx={{
            justifyContent: "flex-start",
            alignItems: "flex-start",
            gap: 1,
            px: 1.5,
            py: 1.1,
            minHeight: 48,
            minWidth: { xs: 116, md: 0 },
            textAlign: "left",
            flex: "none",
            borderStyle: "solid",
            borderWidth: { xs: "0 0 4px", md: "0 0 0 4px" },
            borderColor: one.id === station ? "primary.main" : "transparent",
            bgcolor: one.id === station ? "background.paper" : "transparent",
          }}
        >
          <StateMark state={one.state} />
          <Box sx={{ minWidth: 0 }}>
            <Typography sx={{ fontWeight: one.id === station ? 600 : 400 }}>
              {index + 1} {one.title}
            </Typography>
            <Typography variant="caption" color="textSecondary" title={one.known} sx={KNOWN}>
              {one.known}
            </Typography>
          </Box>
        </ButtonBase>
      ))}
    </Box>
  );
}
