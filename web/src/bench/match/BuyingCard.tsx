// From the chosen offer to the parcel: the quote and the owner's answer, the order, the promised day.

import { Box, Button, Link as MuiLink, MenuItem, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import { client, type Buying, type Job, type Order } from "../api/client";
import { dayWords } from "../jobs/days";
import { ErrorNote } from "../parts/notes";
import { OrderSteps } from "./OrderSteps";
import { QuoteDialog } from "./QuoteDialog";
import { useBuyingChange } from "./useMatch";

const HOW = [
  ["phone", "By phone"],
  ["in_person", "In person"],
  ["message", "By message"],
  ["mail", "By mail"],
] as const;
type How = (typeof HOW)[number][0];

function Row({ state, title, children }: { state: State; title: string; children: React.ReactNode }) {
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "18px minmax(0, 1fr)", columnGap: 1, py: 0.75 }}>
      <Box sx={{ pt: 0.4 }}>
        <StateMark state={state} />
      </Box>
      <Box>
        <Typography sx={{ fontWeight: 600 }}>{title}</Typography>
        {children}
      </Box>
    </Box>
  );
}

function Answer({ job, quoteId }: { job: Job; quoteId: number }) {
  const [by, setBy] = useState(job.owner);
  const [how, setHow] = useState<How>("phone");
  const answer = useBuyingChange<"yes" | "no">(job.id, (said) =>
    client.POST("/api/jobs/{job_id}/buying/quotes/{quote_id}/answer", {
      params: { path: { job_id: job.id, quote_id: quoteId } },
      body: { answer: said, by, how },
    }),
  );
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}>
      <TextField
        size="small"
        label="Who answered"
        value={by}
        sx={{ flex: 1, minWidth: 130 }}
        slotProps={{ htmlInput: { maxLength: 120 } }}
        onChange={(event) => {
          setBy(event.target.value);
        }}
      />
      <TextField
        select
        size="small"
        label="How"
        value={how}
        sx={{ minWidth: 120 }}
        onChange={(event) => {
          setHow(event.target.value as How);
        }}
      >
        {HOW.map(([id, title]) => (
          <MenuItem key={id} value={id}>
            {title}
          </MenuItem>
        ))}
      </TextField>
      {(["yes", "no"] as const).map((said) => (
        <Button
          key={said}
          variant="outlined"
          disabled={!by.trim() || answer.isPending}
          onClick={() => {
            answer.run(said);
          }}
        >
          Owner said {said}
        </Button>
      ))}
      <ErrorNote error={answer.error} />
    </Box>
  );
}

function PromiseRow({
  job,
  buying,
  chosenId,
  closed,
}: {
  job: Job;
  buying: Buying;
  chosenId: number | null;
  closed: boolean;
}) {
  const last = buying.promises.at(-1);
  const chosen = buying.ranked.find((one) => one.offer_id === chosenId);
  const suggested = chosen?.ready_on ?? "";
  const [day, setDay] = useState("");
  const [because, setBecause] = useState("");
  const promise = useBuyingChange<{ day: string; because: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/buying/promise", { params: { path: { job_id: job.id } }, body }),
  );
  const wanted = day || (last ? "" : suggested);
  const later = Boolean(last && wanted && wanted > last.day);
  return (
    <Row
      state={!last ? "open" : buying.chance_now !== null && buying.chance_now < 0.5 ? "not_proven" : "done"}
      title={last ? `Promised for ${dayWords(last.day)}` : "No day promised"}
    >
      {last && (
        <Typography variant="body2" color="textSecondary">
          {buying.chance_now !== null
            ? `As things stand kept in ${Math.min(99, Math.round(100 * buying.chance_now))} of 100 cases.`
            : ""}{" "}
          {last.because ? `Moved because ${last.because}.` : ""}
        </Typography>
      )}
      {!closed && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}>
          <TextField
            size="small"
            type="date"
            sx={{ width: 170 }}
            label={last ? "Another day" : "Day"}
            value={wanted}
            slotProps={{ inputLabel: { shrink: true } }}
            onChange={(event) => {
              setDay(event.target.value);
            }}
          />
          {later && (
            <TextField
              size="small"
              label="Why later (the owner is told)"
              value={because}
              sx={{ flex: 1, minWidth: 160 }}
              slotProps={{ htmlInput: { maxLength: 300 } }}
              onChange={(event) => {
                setBecause(event.target.value);
              }}
            />
          )}
          <Button
            variant="outlined"
            disabled={!wanted || wanted === last?.day || (later && !because.trim()) || promise.isPending}
            onClick={() => {
              promise.run({ day: wanted, because }, () => {
                setDay("");
                setBecause("");
              });
            }}
          >
            Promise this day
          </Button>
          <ErrorNote error={promise.error} />
        </Box>
      )}
    </Row>
  );
}

const orderWords = (order: Order): string =>
  order.state === "open"
    ? `Waits for the next order to ${order.supplier}`
    : order.state === "arrived"
      ? `Arrived${order.arrived_on ? ` ${dayWords(order.arrived_on)}` : ""}`
      : `${order.state === "shipped" ? "Shipped" : "Ordered"} from ${order.supplier}${order.due_on ? `, due ${dayWords(order.due_on)}` : ""}`;

export function BuyingCard({ job, buying, chosenId }: { job: Job; buying: Buying; chosenId: number | null }) {
  const chosen = chosenId !== null;
  const [quoting, setQuoting] = useState(false);
  const order = useBuyingChange<boolean>(job.id, (collect) =>
    client.POST("/api/jobs/{job_id}/buying/order", { params: { path: { job_id: job.id } }, body: { collect } }),
  );
  const closed = Boolean(job.closed_at);
  const { quote } = buying;
  const answered = quote?.answer === "yes" ? "done" : quote?.answer === "no" || quote?.over ? "failed" : "active";
  return (
    <Box component="section" aria-label="Quote, order and day" sx={{ mt: 2 }}>
      <Typography variant="h2">Quote, order and day</Typography>
      <Row
        state={quote ? answered : "open"}
        title={quote ? `Quote: ${quote.quote.total} ${quote.quote.currency}` : "No quote yet"}
      >
        {quote && (
          <Typography variant="body2" color="textSecondary">
            {quote.answer
              ? `${quote.answered_by} said ${quote.answer}, ${quote.answered_how.replace("_", " ")}. `
              : quote.over
                ? `It held until ${dayWords(quote.quote.valid_until)}. Make a new one. `
                : `Holds until ${dayWords(quote.quote.valid_until)}. `}
            {quote.quote.hint}{" "}
            <MuiLink href={`/api/jobs/${job.id}/buying/quotes/${quote.id}.txt`} target="_blank" rel="noreferrer">
              As text
            </MuiLink>
            {", "}
            <MuiLink href={`/api/jobs/${job.id}/buying/quotes/${quote.id}.pdf`}>as PDF</MuiLink>
          </Typography>
        )}
        {!closed && quote && !quote.answer && !quote.over && <Answer key={quote.id} job={job} quoteId={quote.id} />}
        {!closed && (
          <Button
            variant={chosen && !quote ? "contained" : "text"}
            sx={{ mt: 0.5, ml: quote ? -1 : 0 }}
            onClick={() => {
              setQuoting(true);
            }}
          >
            {quote ? "New quote" : "Make a quote"}
          </Button>
        )}
      </Row>
      <Row
        state={
          !buying.order ? "open" : buying.order.late ? "failed" : buying.order.state === "arrived" ? "done" : "active"
        }
        title={buying.order ? orderWords(buying.order) : "Not ordered"}
      >
        {buying.order?.late && (
          <Typography variant="body2" color="error">
            Late. Ask {buying.order.supplier}, and tell the owner if the day moves.
          </Typography>
        )}
        {buying.order && <OrderSteps order={buying.order} only={job.id} jobId={job.id} />}
        {!closed && !buying.order && (
          <>
            {quote && quote.answer !== "yes" && (
              <Typography variant="body2" color="textSecondary">
                The owner has not said yes yet.
              </Typography>
            )}
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5 }}>
              <Button
                variant={quote?.answer === "yes" ? "contained" : "outlined"}
                disabled={!chosen || order.isPending}
                onClick={() => {
                  order.run(false);
                }}
              >
                Ordered now
              </Button>
              <Button
                disabled={!chosen || order.isPending}
                onClick={() => {
                  order.run(true);
                }}
              >
                With the next order
              </Button>
            </Box>
          </>
        )}
        <ErrorNote error={order.error} />
      </Row>
      <PromiseRow job={job} buying={buying} chosenId={chosenId} closed={closed} />
      {quoting && (
        <QuoteDialog
          job={job}
          onClose={() => {
            setQuoting(false);
          }}
        />
      )}
    </Box>
  );
}
