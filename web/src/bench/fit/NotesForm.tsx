// What a step asks to be noted: heat, adhesive, hours, and parts and liners one by one. Nothing is filled in for anybody.

import { Box, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import type { FitState } from "../api/client";
import { HoldClock } from "./HoldClock";
import {
  ADHESIVES,
  FATES,
  HEAT_SOURCES,
  numberOf,
  PLACES,
  SIDES,
  type Adhesive,
  type AdhesivePlace,
  type Heat,
  type PartFate,
  type StepEntry,
  type Typed,
} from "./notes";

const ROW = { display: "flex", flexWrap: "wrap", gap: 1, my: 1 } as const;

function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T | "";
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}) {
  return (
    <TextField
      select
      label={label}
      value={value}
      sx={{ width: 170 }}
      onChange={(event) => {
        onChange(event.target.value as T);
      }}
    >
      {options.map(([id, title]) => (
        <MenuItem key={id} value={id}>
          {title}
        </MenuItem>
      ))}
    </TextField>
  );
}

function Amount({
  label,
  value,
  help,
  onChange,
}: {
  label: string;
  value: string;
  help?: string;
  onChange: (text: string) => void;
}) {
  return (
    <TextField
      label={label}
      value={value}
      helperText={help}
      error={Number.isNaN(numberOf(value) ?? 0)}
      sx={{ width: 170 }}
      slotProps={{ htmlInput: { inputMode: "decimal", maxLength: 8 } }}
      onChange={(event) => {
        onChange(event.target.value);
      }}
    />
  );
}

export function NotesForm({
  entry,
  state,
  typed,
  choice,
  onChange,
}: {
  entry: StepEntry;
  state: FitState;
  typed: Typed;
  choice: string;
  onChange: (typed: Typed) => void;
}) {
  const { step } = entry;
  const clock = step.clocks?.[choice] ?? step.clocks?.[""];
  const moving = step.moves ? state.parts.filter((part) => !part.comes) : [];
  const coming = step.moves ? state.parts.filter((part) => part.comes) : [];
  const liners = state.liners.filter((liner) => (step.liners ?? []).includes(liner.id));
  const heat = (change: Partial<Typed["heat"]>) => {
    onChange({ ...typed, heat: { ...typed.heat, ...change } });
  };
  const adhesive = (change: Partial<Typed["adhesive"]>) => {
    onChange({ ...typed, adhesive: { ...typed.adhesive, ...change } });
  };
  return (
    <>
      {(step.hold_s ?? 0) > 0 && (
        <HoldClock
          seconds={step.hold_s ?? 0}
          held={typed.heldS}
          onHeld={(heldS) => {
            onChange({ ...typed, heldS });
          }}
        />
      )}
      {(step.notes ?? []).includes("heat") && (
        <Box sx={ROW} role="group" aria-label="Heat">
          <Choice<Heat["source"]>
            label="Warmed with"
            value={typed.heat.source}
            options={HEAT_SOURCES}
            onChange={(source) => {
              heat({ source });
            }}
          />
          <Amount
            label="Set to (°C)"
            value={typed.heat.setting}
            onChange={(setting) => {
              heat({ setting });
            }}
          />
          <Amount
            label="How often"
            value={typed.heat.cycles}
            onChange={(cycles) => {
              heat({ cycles });
            }}
          />
          <Amount
            label="Seconds each"
            value={typed.heat.seconds}
            onChange={(seconds) => {
              heat({ seconds });
            }}
          />
          <Amount
            label="Battery side (°C)"
            value={typed.heat.battery}
            help="measured; empty: not measured"
            onChange={(battery) => {
              heat({ battery });
            }}
          />
        </Box>
      )}
      {moving.length > 0 && (
        <Box sx={{ my: 1 }} role="group" aria-label="Parts to move over">
          {moving.map((part) => (
            <Box key={part.id} sx={{ py: 0.5, borderTop: 1, borderColor: "divider" }}>
              <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
                <Typography sx={{ flex: 1, minWidth: 150 }}>{part.title}</Typography>
                <ToggleButtonGroup
                  exclusive
                  size="small"
                  value={typed.parts[part.id] ?? null}
                  aria-label={part.title}
                  onChange={(_, fate: PartFate | null) => {
                    if (fate) onChange({ ...typed, parts: { ...typed.parts, [part.id]: fate } });
                  }}
                >
                  {FATES.map(([id, title]) => (
                    <ToggleButton key={id} value={id}>
                      {title}
                    </ToggleButton>
                  ))}
                </ToggleButtonGroup>
              </Box>
              <Typography variant="body2" color="textSecondary">
                {part.freed} {part.risk && <b>{part.risk}</b>}
              </Typography>
            </Box>
          ))}
        </Box>
      )}
      {coming.length > 0 && (
        <Typography variant="body2" color="textSecondary">
          Comes with the new one: {coming.map((part) => part.title.toLowerCase()).join(", ")}.
        </Typography>
      )}
      {liners.map((liner) => (
        <Box key={liner.id} sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", py: 0.5 }}>
          <Typography sx={{ flex: 1, minWidth: 150 }}>
            {liner.title}
            {liner.ends_return ? ". The right of return ends with it." : ""}
          </Typography>
          <ToggleButtonGroup
            exclusive
            size="small"
            value={typed.liners[liner.id] ?? null}
            aria-label={liner.title}
            onChange={(_, was: "off" | "none_there" | null) => {
              if (was) onChange({ ...typed, liners: { ...typed.liners, [liner.id]: was } });
            }}
          >
            <ToggleButton value="off">Off</ToggleButton>
            <ToggleButton value="none_there">None there</ToggleButton>
          </ToggleButtonGroup>
        </Box>
      ))}
      {(step.notes ?? []).includes("adhesive") && (
        <Box sx={ROW} role="group" aria-label="Adhesive">
          <Choice<Adhesive["kind"]>
            label="Held by"
            value={typed.adhesive.kind}
            options={ADHESIVES}
            onChange={(kind) => {
              adhesive({ kind });
            }}
          />
          <Choice<Adhesive["side"]>
            label="Where"
            value={typed.adhesive.side}
            options={SIDES}
            onChange={(side) => {
              adhesive({ side });
            }}
          />
          {typed.adhesive.kind !== "" && typed.adhesive.kind !== "none" && (
            <ToggleButtonGroup
              size="small"
              aria-label="Runs along"
              value={typed.adhesive.where}
              onChange={(_, where: AdhesivePlace[]) => {
                adhesive({ where });
              }}
            >
              {PLACES.map(([id, title]) => (
                <ToggleButton key={id} value={id}>
                  {title}
                </ToggleButton>
              ))}
            </ToggleButtonGroup>
          )}
          {(typed.adhesive.kind === "tape" || typed.adhesive.kind === "foam") && (
            <>
              <Amount
                label="Its thickness (mm)"
                value={typed.adhesive.thickness}
                onChange={(thickness) => {
                  adhesive({ thickness });
                }}
              />
              <Amount
                label="The gap (mm)"
                value={typed.adhesive.gap}
                onChange={(gap) => {
                  adhesive({ gap });
                }}
              />
            </>
          )}
        </Box>
      )}
      {(step.ends ?? []).includes("isolated") && (
        <Box sx={ROW}>
          <Amount
            label="Forced off, how often"
            value={typed.forcedOff}
            help="several can start a recovery run"
            onChange={(forcedOff) => {
              onChange({ ...typed, forcedOff });
            }}
          />
        </Box>
      )}
      {clock?.asked && (
        <Box sx={ROW}>
          <Amount
            label="Hours by its data sheet"
            value={typed.hours}
            help={`empty: not known, then ${Math.round(clock.minutes / 60)} h`}
            onChange={(hours) => {
              onChange({ ...typed, hours });
            }}
          />
        </Box>
      )}
    </>
  );
}
