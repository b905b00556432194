// What narrows the list of jobs.

import { Box, Button, MenuItem, TextField, ToggleButton } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { STATIONS, WAITING } from "../../pane/vocabulary.gen";
import { client, got } from "../api/client";
import { useMe } from "../api/hooks";
import { narrowed, withChoice, type Field } from "./wanted";

type Choices = readonly (readonly [string, string])[];
const STATES: Choices = [
  ["open", "Open"],
  ["closed", "Closed"],
  ["all", "Open and closed"],
];
const STATION: Choices = [
  ["", "Any"],
  ...Object.entries(STATIONS)
    .filter(([, one]) => (one.subjects as readonly string[]).includes("device"))
    .map(([id, one]) => [id, one.title] as const),
];
const VERDICT: Choices = [
  ["", "Any"],
  ["pass", "Pass"],
  ["fail", "Fail"],
  ["not_proven", "Not proven"],
  ["none", "Nothing measured"],
];
const WAITS: Choices = [
  ["", "Any"],
  ["any", "Waiting"],
  ["none", "Not waiting"],
  ...Object.entries(WAITING).map(([id, one]) => [id, one.title] as const),
];
const ORDER: Choices = [
  ["urgent", "Urgent, then due"],
  ["due", "Due first"],
  ["new", "Newest first"],
  ["old", "Oldest first"],
  ["changed", "Changed last"],
  ["title", "By name"],
];
const WORDS_MS = 250;

interface Props {
  params: URLSearchParams;
  onParams: (next: URLSearchParams) => void;
}

function Choice({
  label,
  field,
  choices,
  usual = "",
  params,
  onParams,
}: Props & { label: string; field: Field; choices: Choices; usual?: string }) {
  return (
    <TextField
      select
      label={label}
      value={params.get(field) ?? usual}
      onChange={(event) => {
        onParams(withChoice(params, field, event.target.value));
      }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      sx={{ width: { xs: "calc(50% - 6px)", sm: 175 } }}
    >
      {choices.map(([id, title]) => (
        <MenuItem key={id} value={id}>
          {title}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** Finds as one types, and leaves what is typed alone while it does. */
export function FindField({ params, onParams }: Props) {
  const [text, setText] = useState(params.get("q") ?? "");
  useEffect(() => {
    const timer = setTimeout(() => {
      // from the address as it is now: a filter that was pressed a moment ago may not be drawn yet, and must not be lost
      const now = new URLSearchParams(window.location.search);
      if (text.trim() !== (now.get("q") ?? "")) onParams(withChoice(now, "q", text.trim()));
    }, WORDS_MS);
    return () => {
      clearTimeout(timer);
    };
  }, [text, params, onParams]);
  return (
    <TextField
      label="Find"
      type="search"
      value={text}
      slotProps={{ htmlInput: { maxLength: 100 } }}
      onChange={(event) => {
        setText(event.target.value);
      }}
      sx={{ width: { xs: "100%", sm: 260 } }}
    />
  );
}

export function JobFilters({ params, onParams }: Props) {
  const [open, setOpen] = useState(narrowed(params) > 0);
  const me = useMe();
  const colleagues = useQuery({
    queryKey: ["colleagues"],
    queryFn: () => got<string[]>(client.GET("/api/colleagues")),
  });
  const mine = me.data?.name ?? "";
  const others = (colleagues.data ?? []).filter((name) => name !== mine);
  const who: Choices = [
    ["", "Anybody"],
    [mine, "Me"],
    ["nobody", "Nobody yet"],
    ...others.map((name) => [name, name] as const),
  ];
  const told = { params, onParams };
  const count = narrowed(params);
  return (
    <Box sx={{ px: 2, pb: 1 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
        <Button
          variant="outlined"
          aria-expanded={open}
          onClick={() => {
            setOpen(!open);
          }}
        >
          Filters{count > 0 ? ` (${count})` : ""}
        </Button>
        <ToggleButton
          value="mine"
          selected={params.get("who") === mine && mine !== ""}
          onChange={() => {
            onParams(withChoice(params, "who", params.get("who") === mine ? "" : mine));
          }}
        >
          Mine
        </ToggleButton>
        <ToggleButton
          value="overdue"
          selected={params.get("overdue") === "true"}
          onChange={() => {
            onParams(withChoice(params, "overdue", params.get("overdue") ? "" : "true"));
          }}
        >
          Overdue
        </ToggleButton>
        <Choice label="Order" field="sort" choices={ORDER} usual="urgent" {...told} />
        {count > 0 && (
          <Button
            onClick={() => {
              onParams(new URLSearchParams(params.get("q") ? { q: params.get("q") ?? "" } : {}));
            }}
          >
            Clear filters
          </Button>
        )}
      </Box>
      {open && (
        <Box role="group" aria-label="Filters" sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, mt: 1.5 }}>
          <Choice label="State" field="state" choices={STATES} usual="open" {...told} />
          <Choice label="Station" field="station" choices={STATION} {...told} />
          <Choice label="Verdict" field="verdict" choices={VERDICT} {...told} />
          <Choice label="Waits for" field="waiting_for" choices={WAITS} {...told} />
          <Choice label="Who" field="who" choices={who} {...told} />
        </Box>
      )}
    </Box>
  );
}
