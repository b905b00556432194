// Orders: what is coming, what is late, what came and how it looked.

import { Box, Button, Link as MuiLink, MenuItem, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { client, got, type Order } from "../api/client";
import { useShop } from "../api/hooks";
import { dayWords } from "../jobs/days";
import { OrderSteps } from "../match/OrderSteps";
import { Empty, ErrorNote, Waiting } from "../parts/notes";

const STATES = [
  ["coming", "Coming"],
  ["late", "Late"],
  ["arrived", "Arrived"],
  ["all", "All"],
] as const;
type State = (typeof STATES)[number][0];
const WORDS: Record<Order["state"], string> = {
  open: "Collecting",
  ordered: "Ordered",
  shipped: "Shipped",
  arrived: "Arrived",
  cancelled: "Cancelled",
};

function days(order: Order): string {
  const told = [
    order.ordered_on && `ordered ${dayWords(order.ordered_on)}`,
    order.shipped_on && `shipped ${dayWords(order.shipped_on)}`,
    order.arrived_on ? `arrived ${dayWords(order.arrived_on)}` : order.due_on && `due ${dayWords(order.due_on)}`,
  ];
  return told.filter(Boolean).join(", ");
}

export function Orders() {
  const shop = useShop();
  const [params, setParams] = useSearchParams();
  const asked = params.get("state");
  const state: State = STATES.find(([id]) => id === asked)?.[0] ?? "coming";
  const orders = useQuery({
    queryKey: ["orders", state],
    queryFn: () => got<{ orders: Order[]; more: boolean }>(client.GET("/api/orders", { params: { query: { state } } })),
  });
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Orders
        </Typography>
        <TextField
          select
          label="Show"
          value={state}
          sx={{ width: 150 }}
          onChange={(event) => {
            setParams({ state: event.target.value }, { replace: true });
          }}
        >
          {STATES.map(([id, title]) => (
            <MenuItem key={id} value={id}>
              {title}
            </MenuItem>
          ))}
        </TextField>
        <Button component="a" href="/api/orders.csv" download>
          Export (CSV)
        </Button>
      </Box>
      {orders.isPending && <Waiting words="Loading the orders" />}
      <ErrorNote error={orders.error} onRetry={() => void orders.refetch()} />
      {orders.data?.orders.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            {state === "late"
              ? "Nothing is late."
              : "No order here. Panels are ordered at a job's Match, once an offer is chosen."}
          </Empty>
        </Box>
      )}
      {orders.data?.orders.map((order) => (
        <Box
          key={order.id}
          sx={{
            borderTop: 1,
            borderColor: "divider",
            px: 2,
            py: 1,
            display: "grid",
            gridTemplateColumns: { xs: "1fr", md: "minmax(220px, 1fr) minmax(280px, 2fr) auto" },
            gap: 1.5,
            alignItems: "start",
          }}
        >
          <Box>
            <Typography sx={{ fontWeight: 600 }}>
              {order.supplier}: {WORDS[order.state].toLowerCase()}
              {order.late ? ", late" : ""}
            </Typography>
            <Typography variant="body2" color={order.late ? "error" : "textSecondary"}>
              Order {order.id}
              {days(order) ? `, ${days(order)}` : ""}
            </Typography>
          </Box>
          <Box>
            {order.lines.map((line) => (
              <Typography key={line.id} variant="body2">
                {line.quantity > 1 ? `${line.quantity} x ` : ""}
                {line.panel}, {line.unit_price} {shop.data?.currency}
                {line.job_id ? (
                  <>
                    {", for "}
                    <MuiLink component={Link} to={`/jobs/${line.job_id}/match`}>
                      {line.job_title}
                    </MuiLink>
                  </>
                ) : null}
                {line.outcome ? `: ${line.outcome}` : ""}
                {line.note ? `, ${line.note}` : ""}
              </Typography>
            ))}
          </Box>
          <OrderSteps order={order} />
        </Box>
      ))}
      {orders.data?.more && (
        <Typography sx={{ p: 2 }} color="textSecondary">
          The newest are shown; the export has all.
        </Typography>
      )}
    </Box>
  );
}
