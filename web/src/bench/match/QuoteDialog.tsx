// A price for the owner: what it begins with can be changed, lines added for what was found.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Job, type QuoteLine } from "../api/client";
import { useShop } from "../api/hooks";
import { ErrorNote, Waiting } from "../parts/notes";
import { isMoney, linesOf, netOf, type Typed } from "./quoteLines";
import { useBuyingChange } from "./useMatch";

function Form({ job, start, onClose }: { job: Job; start: readonly Typed[]; onClose: () => void }) {
  const shop = useShop();
  const [lines, setLines] = useState<readonly Typed[]>(start);
  const [worth, setWorth] = useState("");
  const make = useBuyingChange<QuoteLine[]>(job.id, (told) =>
    client.POST("/api/jobs/{job_id}/buying/quote", {
      params: { path: { job_id: job.id } },
      body: { lines: told, device_worth: isMoney(worth) ? worth.replace(",", ".") : null },
    }),
  );
  const net = netOf(lines);
  const ready =
    net !== null && lines.length > 0 && lines.every((line) => line.title.trim()) && (!worth || isMoney(worth));
  const change = (at: number, part: Partial<Typed>) => {
    setLines(lines.map((line, n) => (n === at ? { ...line, ...part } : line)));
  };
  const currency = shop.data?.currency ?? "";
  return (
    <Box
      component="form"
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        if (ready) make.run(linesOf(lines), onClose);
      }}
    >
      <DialogContent sx={{ display: "grid", gap: 1.5 }}>
        {lines.map((line, n) => (
          <Box key={n} sx={{ display: "flex", gap: 1, alignItems: "center", pt: n ? 0 : 1 }}>
            <TextField
              label={line.minutes ? `What, ${line.minutes} minutes` : "What"}
              value={line.title}
              sx={{ flex: 1 }}
              slotProps={{ htmlInput: { maxLength: 120 } }}
              onChange={(event) => {
                change(n, { title: event.target.value });
              }}
            />
            <TextField
              label={currency}
              value={line.amount}
              error={!isMoney(line.amount)}
              sx={{ width: 110 }}
              slotProps={{ htmlInput: { inputMode: "decimal" } }}
              onChange={(event) => {
                change(n, { amount: event.target.value });
              }}
            />
            <Button
              aria-label={`Take out ${line.title || "the line"}`}
              sx={{ minWidth: 44 }}
              onClick={() => {
                setLines(lines.filter((_, other) => other !== n));
              }}
            >
              Out
            </Button>
          </Box>
        ))}
        <Button
          variant="outlined"
          sx={{ justifySelf: "start" }}
          onClick={() => {
            setLines([...lines, { kind: "extra", title: "", amount: "", minutes: null }]);
          }}
        >
          Add a line
        </Button>
        <TextField
          label={`What the device is worth (${currency}), if you want to compare`}
          value={worth}
          error={Boolean(worth) && !isMoney(worth)}
          slotProps={{ htmlInput: { inputMode: "decimal" } }}
          onChange={(event) => {
            setWorth(event.target.value);
          }}
        />
        <Typography role="status">
          {net === null ? "Give each line an amount." : `${net} ${currency} and ${shop.data?.tax_percent ?? 0} % tax.`}
        </Typography>
        <ErrorNote error={make.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" variant="contained" disabled={!ready || make.isPending}>
          Make the quote
        </Button>
      </DialogActions>
    </Box>
  );
}

export function QuoteDialog({ job, onClose }: { job: Job; onClose: () => void }) {
  const draft = useQuery({
    queryKey: ["quote-draft", job.id],
    queryFn: () =>
      got<{ lines: QuoteLine[] }>(
        client.GET("/api/jobs/{job_id}/buying/quote", { params: { path: { job_id: job.id } } }),
      ),
    gcTime: 0,
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>Quote for {job.owner || "the owner"}</DialogTitle>
      {draft.data ? (
        <Form
          job={job}
          start={draft.data.lines.map((line) => ({
            ...line,
            amount: String(line.amount),
            minutes: line.minutes ?? null,
          }))}
          onClose={onClose}
        />
      ) : (
        <DialogContent>
          {draft.error ? <ErrorNote error={draft.error} /> : <Waiting words="Working the price out" />}
        </DialogContent>
      )}
    </Dialog>
  );
}
