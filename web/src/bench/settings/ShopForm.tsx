// The shop: what its reports print, and what its clocks and money go by.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Shop } from "../api/client";
import { useMe, useReportLanguages, useShop, useVocabulary } from "../api/hooks";
import { ErrorNote, Waiting } from "../parts/notes";
import { Logo } from "./Logo";

const DAYS = [
  ["mon", "Monday"],
  ["tue", "Tuesday"],
  ["wed", "Wednesday"],
  ["thu", "Thursday"],
  ["fri", "Friday"],
  ["sat", "Saturday"],
  ["sun", "Sunday"],
] as const;
const MOST = {
  name: 120,
  language: 10,
  address: 300,
  public_address: 200,
  currency: 3,
  tax_percent: 6,
  paper: 10,
  time_zone: 60,
  profile: 40,
  hourly_rate: 9,
  delay_cost_a_day: 9,
  round_to: 7,
} as const;
const DAY = /^\d{4}-\d{2}-\d{2}$/;
const closedDays = (text: string): string[] => text.split(/\s+/).filter((day) => DAY.test(day));
const money = (value: string | number): string => String(value).trim().replace(",", ".") || "0";
const zones = (): string[] =>
  "supportedValuesOf" in Intl
    ? ["UTC", ...Intl.supportedValuesOf("timeZone").filter((zone) => zone !== "UTC")]
    : ["UTC"];

function Form({ shop, mayWrite }: { shop: Shop; mayWrite: boolean }) {
  const queries = useQueryClient();
  const vocabulary = useVocabulary();
  const languages = useReportLanguages();
  const [draft, setDraft] = useState(shop);
  const [closedOn, setClosedOn] = useState(shop.closed_on.join("\n"));
  const [saved, setSaved] = useState(false);
  const save = useMutation({
    mutationFn: (body: Shop) => got<Shop>(client.PUT("/api/shop", { body })),
    onSuccess: (stored) => {
      queries.setQueryData(["shop"], stored);
      setDraft(stored);
      setSaved(true);
    },
  });
  const field = (
    name:
      | "name"
      | "language"
      | "address"
      | "public_address"
      | "currency"
      | "tax_percent"
      | "paper"
      | "time_zone"
      | "profile"
      | "hourly_rate"
      | "delay_cost_a_day"
      | "round_to",
  ) => ({
    value: String(draft[name]),
    slotProps: {
      input: { readOnly: !mayWrite },
      htmlInput: { maxLength: MOST[name] },
      select: { readOnly: !mayWrite },
    },
    onChange: (event: { target: { value: string } }) => {
      setSaved(false);
      setDraft({ ...draft, [name]: event.target.value });
    },
  });
  const hours = (day: string, text: string) => {
    setSaved(false);
    const rest = Object.fromEntries(Object.entries(draft.hours).filter(([one]) => one !== day));
    setDraft({ ...draft, hours: text.trim() ? { ...rest, [day]: text } : rest });
  };
  return (
    <Box
      component="form"
      aria-label="Shop"
      sx={{ p: 2, maxWidth: 720, display: "grid", gap: 2 }}
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        save.mutate({
          ...draft,
          tax_percent: String(draft.tax_percent).replace(",", "."),
          currency: draft.currency.toUpperCase(),
          hourly_rate: money(draft.hourly_rate),
          delay_cost_a_day: money(draft.delay_cost_a_day),
          round_to: money(draft.round_to),
          closed_on: closedDays(closedOn),
        });
      }}
    >
      {!mayWrite && <Typography color="textSecondary">A lead changes these; you can read them.</Typography>}
      <TextField label="Name" {...field("name")} helperText="Printed on reports" />
      <TextField label="Address" multiline minRows={2} {...field("address")} />
      <TextField
        label="Public address"
        {...field("public_address")}
        placeholder="https://bench.example"
        helperText="Where owners at home reach this bench; start it with --name for that name. Empty: no links for owners at home"
      />
      {mayWrite && (
        <Logo
          shop={draft}
          onChanged={(stored) => {
            setDraft({ ...draft, has_logo: stored.has_logo, version: stored.version });
          }}
        />
      )}
      {(languages.data?.length ?? 0) > 1 && (
        <TextField
          select
          label="Language of the owner's page"
          {...field("language")}
          helperText="Each report can be made in another"
        >
          {languages.data?.map((one) => (
            <MenuItem key={one.id} value={one.id}>
              {one.name}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr 1fr", sm: "1fr 1fr 1fr" }, gap: 1.5 }}>
        <TextField label="Currency" {...field("currency")} helperText="Three letters, such as EUR" />
        <TextField label="Tax (%)" inputMode="decimal" {...field("tax_percent")} />
        <TextField select label="Paper" {...field("paper")}>
          {["A4", "Letter"].map((one) => (
            <MenuItem key={one} value={one}>
              {one}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 1.5 }}>
        <TextField
          label="Time zone"
          {...field("time_zone")}
          slotProps={{ input: { readOnly: !mayWrite }, htmlInput: { list: "zones", maxLength: MOST.time_zone } }}
          helperText="Days begin and end by it, on screens and in reports"
        />
        <datalist id="zones">
          {zones().map((zone) => (
            <option key={zone} value={zone} />
          ))}
        </datalist>
        <TextField
          select
          label="Acceptance of new jobs"
          {...field("profile")}
          helperText="Each job can be given another"
        >
          {(vocabulary.data?.profiles ?? [{ id: draft.profile, title: draft.profile }]).map((one) => (
            <MenuItem key={one.id} value={one.id}>
              {one.title}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Box role="group" aria-label="Opening hours">
        <Typography variant="h2" sx={{ mb: 1 }}>
          Opening hours
        </Typography>
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 1.5 }}>
          {DAYS.map(([day, title]) => (
            <TextField
              key={day}
              label={title}
              value={draft.hours[day] ?? ""}
              placeholder="Closed, or 08:00-12:00, 13:00-17:00"
              slotProps={{ inputLabel: { shrink: true }, input: { readOnly: !mayWrite }, htmlInput: { maxLength: 60 } }}
              onChange={(event) => {
                hours(day, event.target.value);
              }}
            />
          ))}
        </Box>
      </Box>
      <TextField
        label="Also closed on, one day a line"
        multiline
        minRows={2}
        value={closedOn}
        error={closedOn.split(/\s+/).some((day) => day !== "" && !DAY.test(day))}
        helperText="As 2026-12-25; promised days leave these out"
        slotProps={{ input: { readOnly: !mayWrite } }}
        onChange={(event) => {
          setSaved(false);
          setClosedOn(event.target.value);
        }}
      />
      <Box role="group" aria-label="Prices and promises">
        <Typography variant="h2" sx={{ mb: 1 }}>
          Prices and promises
        </Typography>
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr 1fr" }, gap: 1.5 }}>
          <TextField label={`An hour of work (${draft.currency})`} inputMode="decimal" {...field("hourly_rate")} />
          <TextField
            label={`A day of delay costs (${draft.currency})`}
            inputMode="decimal"
            {...field("delay_cost_a_day")}
          />
          <TextField label="Round totals to" inputMode="decimal" {...field("round_to")} />
          {(["warranty_months", "quote_days"] as const).map((name) => (
            <TextField
              key={name}
              label={name === "quote_days" ? "A quote holds (days)" : "Warranty to owners (months)"}
              inputMode="numeric"
              value={String(draft[name])}
              slotProps={{ input: { readOnly: !mayWrite }, htmlInput: { maxLength: 3 } }}
              onChange={(event) => {
                setSaved(false);
                setDraft({ ...draft, [name]: Number(event.target.value.replace(/\D/g, "")) });
              }}
            />
          ))}
        </Box>
      </Box>
      <ErrorNote error={save.error} />
      {mayWrite && (
        <Box sx={{ display: "flex", gap: 2, alignItems: "center" }}>
          <Button type="submit" variant="contained" disabled={save.isPending}>
            Save
          </Button>
          <Typography role="status" variant="body2" color="textSecondary">
            {saved ? "Saved." : ""}
          </Typography>
        </Box>
      )}
    </Box>
  );
}

export function ShopForm() {
  const me = useMe();
  const shop = useShop();
  if (!shop.data) return shop.error ? <ErrorNote error={shop.error} /> : <Waiting words="Loading the shop" />;
  return <Form shop={shop.data} mayWrite={me.data?.roles.includes("lead") ?? false} />;
}
