// Acceptance profiles: what a panel and its touch surface must fulfil. Everybody reads them, leads write the shop's own.

import { Box, Button, ButtonBase, Typography } from "@mui/material";
import { useNavigate, useParams } from "react-router";
import { useMe, useProfiles, useShop } from "../api/hooks";
import { EMPTY, ProfileEditor } from "./ProfileEditor";
import { Empty, ErrorNote, Waiting } from "../parts/notes";

export function Profiles() {
  const { id } = useParams();
  const go = useNavigate();
  const me = useMe();
  const profiles = useProfiles();
  const shop = useShop();
  if (profiles.isPending) return <Waiting words="Loading the profiles" />;
  if (!profiles.data) return <ErrorNote error={profiles.error} onRetry={() => void profiles.refetch()} />;
  const mayWrite = me.data?.roles.includes("lead") ?? false;
  // it does not open empty: the profile that new jobs begin with comes first
  const shown = id ?? shop.data?.profile;
  const chosen = profiles.data.find((one) => one.profile.id === shown);
  return (
    <Box
      sx={{ display: "grid", gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "280px minmax(0, 1fr)" }, gap: 2, p: 2 }}
    >
      <Box component="nav" aria-label="Profiles">
        {profiles.data.map((one) => (
          <ButtonBase
            key={one.profile.id}
            aria-current={one.profile.id === shown}
            onClick={() => {
              void go(`/settings/acceptance/${one.profile.id}`);
            }}
            sx={{
              display: "block",
              width: "100%",
              textAlign: "left",
              minHeight: 44,
              px: 1,
              py: 0.75,
              borderTop: 1,
              borderColor: "divider",
              bgcolor: one.profile.id === shown ? "background.paper" : "transparent",
            }}
          >
            <Typography component="span" sx={{ fontWeight: 600 }}>
              {one.profile.title}
            </Typography>
            <Typography component="span" variant="body2" color="textSecondary" sx={{ display: "block" }}>
              {one.profile.id}
              {one.version ? `, by ${one.changed_by}` : ""}
            </Typography>
          </ButtonBase>
        ))}
        {mayWrite && (
          <Button
            variant="outlined"
            sx={{ mt: 1.5 }}
            onClick={() => {
              void go("/settings/acceptance/new");
            }}
          >
            New profile
          </Button>
        )}
      </Box>
      <Box sx={{ minWidth: 0 }}>
        {id === "new" ? (
          <ProfileEditor key="new" start={EMPTY} version={0} own={false} mayWrite={mayWrite} />
        ) : chosen ? (
          <ProfileEditor
            key={`${chosen.profile.id}.${chosen.version}`}
            start={chosen.profile}
            version={chosen.version}
            own={chosen.version > 0}
            mayWrite={mayWrite}
          />
        ) : (
          <Empty>Choose a profile: it says what a panel must fulfil, and each job names one at its intake.</Empty>
        )}
      </Box>
    </Box>
  );
}
