// Everything that counts as evidence: who said or saw it, when, under which conditions; each can be withdrawn with a reason.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { useWhen } from "../api/hooks";
import type { Evidence, Job, Vocabulary } from "../api/client";
import { useProving } from "../prove/useProving";
import { currentTouch } from "../touch/current";
import { answerWords } from "./steps";

function conditionWords(of: Evidence["conditions"]): string {
  const parts = [
    typeof of.mains === "boolean" ? (of.mains ? "mains in" : "on battery") : "",
    typeof of.battery_percent === "number" ? `battery ${of.battery_percent} %` : "",
    of.room ? `${of.room} room` : "",
  ];
  return parts.filter(Boolean).join(", ");
}

function WithdrawDialog({
  words,
  onClose,
  onWithdraw,
}: {
  words: string;
  onClose: () => void;
  onWithdraw: (reason: string) => void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          onWithdraw(reason.trim());
        }}
      >
        <DialogTitle>Withdraw this answer?</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <Typography variant="body2">{words}</Typography>
          <TextField
            autoFocus
            label="Why"
            value={reason}
            onChange={(event) => {
              setReason(event.target.value);
            }}
            slotProps={{ htmlInput: { maxLength: 300 } }}
            helperText="It stays in the record and counts no more."
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" variant="contained">
            Withdraw
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

export function Ledger({
  job,
  vocabulary,
  onWithdraw,
  onAgain,
}: {
  job: Job;
  vocabulary: Vocabulary;
  onWithdraw: (id: number, reason: string) => void;
  onAgain: (check: string) => void;
}) {
  const when = useWhen();
  const [asked, setAsked] = useState<Evidence | null>(null);
  const [withdrawn, setWithdrawn] = useState(false);
  const inspection = job.runs.find((run) => run.stage === "inspect")?.result;
  const touch = currentTouch(job, "inspect")?.result;
  const dragged = useProving(job.id).data?.eye.find((one) => one.stage === "inspect")?.touch;
  const items = job.evidence.filter((one) => withdrawn || !one.withdrawn);
  const taken = job.evidence.length - job.evidence.filter((one) => !one.withdrawn).length;
  const closed = Boolean(job.closed_at);
  return (
    <Box component="section" aria-label="Evidence" sx={{ mt: 2 }}>
      <Typography variant="h2">Evidence</Typography>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {inspection && (
          <Box component="li" sx={{ py: 0.75, borderTop: 1, borderColor: "divider" }}>
            <Typography>
              Photos:{" "}
              {inspection.findings.length === 0
                ? "no finding"
                : `${inspection.findings.length} ${inspection.findings.length > 1 ? "findings" : "finding"}`}{" "}
              as received
            </Typography>
            <Typography variant="body2" color="textSecondary">
              measured, {(100 * inspection.verdict.proven_fraction).toFixed(0)} % of the panel proven
            </Typography>
          </Box>
        )}
        {touch && (
          <Box component="li" sx={{ py: 0.75, borderTop: 1, borderColor: "divider" }}>
            <Typography>Touch as received: {touch.reasons.join(" ")}</Typography>
            <Typography variant="body2" color="textSecondary">
              measured, {(100 * touch.coverage).toFixed(0)} % of the cells surely crossed
            </Typography>
          </Box>
        )}
        {dragged?.tried && (
          <Box component="li" sx={{ py: 0.75, borderTop: 1, borderColor: "divider" }}>
            <Typography>
              Touch by eye as received: {dragged.told.length ? dragged.told.join(" ") : "all of it answered."}
            </Typography>
            <Typography variant="body2" color="textSecondary">
              seen
            </Typography>
          </Box>
        )}
        {items.map((one) => (
          <Box
            component="li"
            key={one.id}
            sx={{ py: 0.75, borderTop: 1, borderColor: "divider", opacity: one.withdrawn ? 0.7 : 1 }}
          >
            <Typography sx={{ overflowWrap: "anywhere", textDecoration: one.withdrawn ? "line-through" : "none" }}>
              {answerWords(vocabulary, one.check, one.outcome)}
            </Typography>
            <Typography variant="body2" color="textSecondary">
              {[
                one.source,
                one.by,
                when(one.at),
                conditionWords(one.conditions),
                one.withdrawn ? `withdrawn: ${one.withdrawn_because || "no reason given"}` : "",
              ]
                .filter(Boolean)
                .join(", ")}
            </Typography>
            {!one.withdrawn && one.set_aside && (
              <Typography variant="body2" color="warning">
                Set aside. {one.set_aside}
              </Typography>
            )}
            {!closed && !one.withdrawn && (
              <Box>
                {!one.check.includes(":") && (
                  <Button
                    size="small"
                    onClick={() => {
                      onAgain(one.check);
                    }}
                  >
                    Answer again
                  </Button>
                )}
                <Button
                  size="small"
                  onClick={() => {
                    setAsked(one);
                  }}
                >
                  Withdraw
                </Button>
              </Box>
            )}
          </Box>
        ))}
      </Box>
      {job.evidence.length === 0 && !inspection && !touch && !dragged?.tried && (
        <Typography variant="body2" color="textSecondary">
          Nothing yet. Answer the card above, or take photos at Inspect.
        </Typography>
      )}
      {taken > 0 && (
        <Button
          size="small"
          aria-expanded={withdrawn}
          onClick={() => {
            setWithdrawn(!withdrawn);
          }}
        >
          {withdrawn ? "Hide what was withdrawn" : `${taken} withdrawn`}
        </Button>
      )}
      {asked && (
        <WithdrawDialog
          words={answerWords(vocabulary, asked.check, asked.outcome)}
          onClose={() => {
            setAsked(null);
          }}
          onWithdraw={(reason) => {
            onWithdraw(asked.id, reason);
            setAsked(null);
          }}
        />
      )}
    </Box>
  );
}
