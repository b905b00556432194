import { Alert, Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Link, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, got, type Access } from "../api/client";
import { useMe } from "../api/hooks";
import { ErrorNote, Waiting } from "./notes";

const WORDS = {
  glass: { title: "Open the glass", how: "Open this address on the device under test, or scan it there. Then full screen: F11, F or a tap." },
  snap: { title: "Open the hand camera", how: "Scan this with the phone that takes the photos." },
};

/** A fresh code each time it opens: as QR, as address to type, and as link for this machine. */
export function LinkDialog({ runId, kind, onClose }: { runId: number; kind: "glass" | "snap"; onClose: () => void }) {
  const me = useMe();
  const make = useMutation({
    mutationFn: () => got<Access>(client.POST("/api/runs/{run_id}/access", { params: { path: { run_id: runId } }, body: { kind } })),
  });
  const { mutate } = make;
  useEffect(() => { mutate(); }, [mutate]);
  const lacking = me.data && !me.data.tls && me.data.lan;
  return (
    // the next key, often a pedal's, is meant for the work and not for the button that opened this
    <Dialog open disableRestoreFocus onClose={onClose} aria-labelledby="link-title">
      <DialogTitle id="link-title">{WORDS[kind].title}</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 2 }}>{WORDS[kind].how}</Typography>
        <ErrorNote error={make.error} onRetry={() => { make.mutate(); }} />
        {!make.data && !make.error && <Waiting words="Making a code" />}
        {make.data && (
          <Box sx={{ display: "grid", gap: 1, justifyItems: "center" }}>
            <Box role="img" aria-label="QR code of the address below" sx={{ width: 220, bgcolor: "#fff", "& svg": { display: "block", width: "100%" } }} dangerouslySetInnerHTML={{ __html: make.data.qr_svg }} />
            <Link href={make.data.url} target="_blank" rel="noopener" sx={{ overflowWrap: "anywhere" }}>{make.data.url}</Link>
            <Typography variant="body2" color="textSecondary">Opens this inspection only, until {new Date(make.data.expires_at).toLocaleString()}.</Typography>
          </Box>
        )}
        {me.data && !me.data.lan && <Alert severity="info" variant="outlined" sx={{ mt: 2 }}>This bench answers on this machine only. Start it with --lan to reach it from other devices.</Alert>}
        {lacking && <Alert severity="info" variant="outlined" sx={{ mt: 2 }}>Over a plain page browsers give no camera stream and do not keep the screen awake. Start with --tls for both; choosing and shooting photos works either way.</Alert>}
      </DialogContent>
      <DialogActions><Button onClick={onClose}>Close</Button></DialogActions>
    </Dialog>
  );
}
