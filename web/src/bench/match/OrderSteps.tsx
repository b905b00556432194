// What may become of an order next, and what was in the parcel.

import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Order } from "../api/client";
import { Confirm } from "../parts/Confirm";
import { BeginDialog } from "../registers/BeginDialog";
import { ErrorNote } from "../parts/notes";

type What = "ordered" | "shipped" | "arrived" | "cancelled";
const NEXT: Record<Order["state"], readonly (readonly [What, string])[]> = {
  open: [
    ["ordered", "Ordered now"],
    ["cancelled", "Cancel"],
  ],
  ordered: [
    ["shipped", "Shipped"],
    ["arrived", "Arrived"],
    ["cancelled", "Cancel"],
  ],
  shipped: [
    ["arrived", "Arrived"],
    ["cancelled", "Cancel"],
  ],
  arrived: [],
  cancelled: [],
};
const OUTCOMES = [
  ["good", "Good"],
  ["dead", "Dead"],
  ["marked", "Marked"],
] as const;
type Outcome = (typeof OUTCOMES)[number][0];

/** `only`: the job whose line is shown; all of them without it. */
export function OrderSteps({ order, only, jobId }: { order: Order; only?: number; jobId?: number }) {
  const queries = useQueryClient();
  const [asked, setAsked] = useState<What | null>(null);
  const [inspected, setInspected] = useState<number | null>(null);
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["orders"] });
    void queries.invalidateQueries({ queryKey: jobId ? ["job", jobId] : ["job"] });
  };
  const advance = useMutation({
    mutationFn: ({ what, note }: { what: What; note: string }) =>
      got(
        client.POST("/api/orders/{order_id}", {
          params: { path: { order_id: order.id } },
          body: { what, note },
        }),
      ),
    onSettled: done,
  });
  const judge = useMutation({
    mutationFn: ({ line, outcome }: { line: number; outcome: Outcome }) =>
      got(
        client.POST("/api/orders/lines/{line_id}", {
          params: { path: { line_id: line } },
          body: { outcome, note: "" },
        }),
      ),
    onSettled: done,
  });
  const lines = order.lines.filter((line) => only === undefined || line.job_id === only);
  return (
    <Box sx={{ display: "grid", gap: 0.5 }}>
      {NEXT[order.state].length > 0 && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          {NEXT[order.state].map(([what, title]) => (
            <Button
              key={what}
              size="small"
              variant={what === "cancelled" ? "text" : "outlined"}
              disabled={advance.isPending}
              onClick={() => {
                if (what === "cancelled") setAsked(what);
                else advance.mutate({ what, note: "" });
              }}
            >
              {title}
            </Button>
          ))}
        </Box>
      )}
      {order.state === "arrived" &&
        lines.map((line) => (
          <Box key={line.id} sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
            <Typography variant="body2">
              {line.panel}: {line.outcome ? `arrived ${line.outcome}` : "how does it look?"}
            </Typography>
            {OUTCOMES.filter(([id]) => id !== line.outcome).map(([id, title]) => (
              <Button
                key={id}
                size="small"
                variant={line.outcome ? "text" : "outlined"}
                disabled={judge.isPending}
                onClick={() => {
                  judge.mutate({ line: line.id, outcome: id });
                }}
              >
                {title}
              </Button>
            ))}
            <Button
              size="small"
              onClick={() => {
                setInspected(line.id);
              }}
            >
              Inspect it
            </Button>
          </Box>
        ))}
      {inspected !== null && (
        <BeginDialog
          lineId={inspected}
          onClose={() => {
            setInspected(null);
          }}
        />
      )}
      <ErrorNote error={advance.error ?? judge.error} />
      {asked && (
        <Confirm
          title="Cancel the order?"
          text="It is taken back for every job on it; the record keeps it."
          action="Cancel the order"
          reason="Why"
          onConfirm={(note) => {
            advance.mutate({ what: asked, note });
          }}
          onClose={() => {
            setAsked(null);
          }}
        />
      )}
    </Box>
  );
}
