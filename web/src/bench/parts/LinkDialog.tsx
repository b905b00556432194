import { Alert, Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Link, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, got, type Access, type Code } from "../api/client";
import { useMe, useWhen } from "../api/hooks";
import { ErrorNote, Waiting } from "./notes";

type Kind = "glass" | "snap" | "sense" | "home";
const WORDS = {
  glass: {
    title: "Show patterns on the device",
    how: "Open this address on the device under test, or scan it there. Then full screen: F11, F or a tap.",
    other: "Device page",
  },
  snap: {
    title: "Open the phone camera",
    how: "Scan this with the phone that takes the photos.",
    other: "Phone camera",
  },
  sense: {
    title: "Test functions on the device itself",
    how: "Open this address on the device under test. It plays a tone, listens, and looks through its cameras.",
    other: "Test of functions",
  },
  home: {
    title: "A link for the owner at home",
    how: "Send this address to the owner. It opens the touch test on the device itself, and says how to take pictures of it.",
    other: "Owner's page",
  },
};
const time = (when: string) => new Date(when).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });

/** Codes of this job that still open something: those of this inspection with a button that ends each, pages at other stages with one that brings
 * them here. */
function Codes({
  runId,
  kind,
  current,
  onMoved,
}: {
  runId: number;
  kind: Kind;
  current: Access | undefined;
  onMoved: () => void;
}) {
  const queries = useQueryClient();
  const key = ["codes", runId];
  const codes = useQuery({
    queryKey: [...key, current?.id, current?.expires_at],
    queryFn: () => got<Code[]>(client.GET("/api/runs/{run_id}/access", { params: { path: { run_id: runId } } })),
  });
  const revoke = useMutation({
    mutationFn: (access_id: number) =>
      got<unknown>(client.DELETE("/api/access/{access_id}", { params: { path: { access_id } } })),
    onSettled: () => {
      void queries.invalidateQueries({ queryKey: key });
    },
  });
  const move = useMutation({
    mutationFn: (access_id: number) =>
      got<unknown>(
        client.POST("/api/access/{access_id}/move", { params: { path: { access_id } }, body: { run_id: runId } }),
      ),
    onSuccess: () => {
      // the fresh code is not needed: the page that is open goes on
      if (current) revoke.mutate(current.id);
      onMoved();
    },
  });
  const mine = (codes.data ?? []).filter((code) => code.kind === kind && code.id !== current?.id);
  const others = mine.filter((code) => code.run_id === runId);
  const elsewhere = mine.filter((code) => code.run_id !== runId);
  if (!mine.length && !revoke.error) return null;
  return (
    <Box sx={{ mt: 2 }}>
      {elsewhere.length > 0 && (
        <>
          <Typography variant="h3">Open at another stage of this job</Typography>
          <Box component="ul" aria-label="Codes of other stages" sx={{ listStyle: "none", p: 0, m: 0, mb: 2 }}>
            {elsewhere.map((code) => (
              <Box
                component="li"
                key={code.id}
                sx={{ display: "flex", alignItems: "center", gap: 1, borderTop: 1, borderColor: "divider" }}
              >
                <Typography variant="body2" sx={{ flex: 1 }}>
                  {WORDS[kind].other}, at {code.stage}, made {time(code.made_at)} by {code.made_by}
                </Typography>
                <Button
                  variant="outlined"
                  onClick={() => {
                    move.mutate(code.id);
                  }}
                  disabled={move.isPending}
                >
                  Go on here
                </Button>
              </Box>
            ))}
          </Box>
        </>
      )}
      <ErrorNote error={move.error} />
      {others.length > 0 && <Typography variant="h3">Earlier codes that still open</Typography>}
      <Box component="ul" aria-label="Earlier codes" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {others.map((code) => (
          <Box
            component="li"
            key={code.id}
            sx={{ display: "flex", alignItems: "center", gap: 1, borderTop: 1, borderColor: "divider" }}
          >
            <Typography variant="body2" sx={{ flex: 1 }}>
              {WORDS[kind].other}, made {time(code.made_at)} by {code.made_by}, until {time(code.expires_at)}
            </Typography>
            <Button
              onClick={() => {
                revoke.mutate(code.id);
              }}
              disabled={revoke.isPending}
            >
              Revoke
            </Button>
          </Box>
        ))}
      </Box>
      <ErrorNote error={revoke.error} />
    </Box>
  );
}

/** A fresh code each time it opens: as QR, as address to type, and as link for this machine. */
export function LinkDialog({ runId, kind, onClose }: { runId: number; kind: Kind; onClose: () => void }) {
  const me = useMe();
  const when = useWhen();
  const make = useMutation({
    mutationFn: () =>
      got<Access>(client.POST("/api/runs/{run_id}/access", { params: { path: { run_id: runId } }, body: { kind } })),
  });
  const renew = useMutation({
    mutationFn: (access_id: number) =>
      got<Access>(client.POST("/api/access/{access_id}/renew", { params: { path: { access_id } } })),
  });
  const { mutate } = make;
  useEffect(() => {
    mutate();
  }, [mutate]);
  const lacking = me.data && !me.data.tls && me.data.lan;
  const code = renew.data ?? make.data;
  return (
    // the next key, often a pedal's, is meant for the work and not for the button that opened this
    <Dialog open disableRestoreFocus onClose={onClose} aria-labelledby="link-title">
      <DialogTitle id="link-title">{WORDS[kind].title}</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 2 }}>{WORDS[kind].how}</Typography>
        <ErrorNote
          error={make.error ?? renew.error}
          onRetry={() => {
            make.mutate();
          }}
        />
        {!code && !make.error && <Waiting words="Making a code" />}
        {code && (
          <Box sx={{ display: "grid", gap: 1, justifyItems: "center" }}>
            <Box
              role="img"
              aria-label="QR code of the address below"
              sx={{ width: 220, bgcolor: "#fff", "& svg": { display: "block", width: "100%" } }}
              dangerouslySetInnerHTML={{ __html: code.qr_svg }}
            />
            <Link href={code.url} target="_blank" rel="noopener" sx={{ overflowWrap: "anywhere" }}>
              {code.url}
            </Link>
            <Typography variant="body2" color="textSecondary">
              Opens this inspection, until {when(code.expires_at)}, or until the job is handed over.
              {kind === "home" ? "" : " At the next stage it goes on with one click here: it is scanned once."}
            </Typography>
            <Button
              onClick={() => {
                renew.mutate(code.id);
              }}
              disabled={renew.isPending}
            >
              {kind === "home" ? "Extend by 3 days" : "Extend by 12 hours"}
            </Button>
          </Box>
        )}
        <Codes runId={runId} kind={kind} current={code} onMoved={onClose} />
        {me.data && !me.data.lan && (
          <Alert severity="info" variant="outlined" sx={{ mt: 2 }}>
            This bench answers on this machine only. Start it with --lan to reach it from other devices.
          </Alert>
        )}
        {lacking && kind !== "home" && (
          <Alert severity="info" variant="outlined" sx={{ mt: 2 }}>
            Over a plain page browsers give no camera stream and do not keep the screen awake. Start with --tls for
            both; choosing and shooting photos works either way.
          </Alert>
        )}
        {me.data?.fingerprint && kind !== "home" && (
          <Alert severity="info" variant="outlined" sx={{ mt: 2, overflowWrap: "anywhere" }}>
            The device will warn of an unknown certificate. Compare its SHA-256 fingerprint: {me.data.fingerprint}
          </Alert>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
