// One step: how, what to be careful of, what shows that it sits, what is counted and chosen.

import { Alert, Box, Button, FormControlLabel, Radio, RadioGroup, TextField, Typography } from "@mui/material";
import { useState } from "react";
import type { FitState } from "../api/client";
import { Fasteners } from "./Fasteners";
import { says, stateOf, whole, type FastenerTexts } from "./fasteners";
import { NotesForm } from "./NotesForm";
import { EMPTY, notesOf, readable, type Notes, type Typed } from "./notes";

export interface Doing {
  gate: string;
  choice: string;
  reason: string;
  counts: Record<string, number>;
  notes: Notes;
}

export function StepWork({
  entry,
  state,
  closed,
  onDo,
  children,
}: {
  entry: FitState["steps"][number];
  state: FitState;
  closed: boolean;
  onDo: (doing: Doing) => void;
  children?: React.ReactNode;
}) {
  const { step } = entry;
  const [choice, setChoice] = useState("");
  const [reason, setReason] = useState("");
  const [texts, setTexts] = useState<Record<string, FastenerTexts>>({});
  const [typed, setTyped] = useState<Typed>(EMPTY);
  const choices = Object.entries(step.choices ?? {});
  const groups = Object.entries(step.counts ?? {});
  const counts = Object.fromEntries(groups.map(([group]) => [group, whole(texts[group]?.met ?? "")]));
  const elsewhere = groups.map(([group]) => [group, stateOf(texts[group] ?? {})] as const);
  const counted = Object.values(counts).every((count) => count !== null) && elsewhere.every(([, state]) => state);
  const open = entry.state === "open";
  const stopped = Boolean(entry.blocked) && !(entry.with_reason && reason.trim());
  const goesBack = groups.some(([, usual]) => usual < 0);
  const unheld = typed.heldS < (step.hold_s ?? 0);
  const mayLeaveOut = unheld || (step.notes ?? []).includes("heat");
  return (
    <>
      {step.why && (
        <Typography variant="body2" color="textSecondary">
          {step.why}
        </Typography>
      )}
      {(step.how ?? []).length === 1 ? (
        <Typography sx={{ my: 0.5 }}>{step.how?.[0]}</Typography>
      ) : (
        <Box component="ol" sx={{ pl: 2.5, my: 0.5 }}>
          {(step.how ?? []).map((line) => (
            <li key={line}>
              <Typography>{line}</Typography>
            </li>
          ))}
        </Box>
      )}
      {step.stop_sign && (
        <Typography sx={{ my: 0.5 }}>
          <b>Stop:</b> {step.stop_sign}
        </Typography>
      )}
      {step.proof && (
        <Typography sx={{ my: 0.5 }}>
          <b>It sits when:</b> {step.proof}
        </Typography>
      )}
      {(step.tools ?? []).length > 0 && (
        <Typography variant="body2" color="textSecondary">
          Tools: {(step.tools ?? []).join(", ")}
        </Typography>
      )}
      {entry.schools.map((school) => (
        <Typography key={school.rule} variant="body2" color="textSecondary">
          House rule, {school.question[0]?.toLowerCase()}
          {school.question.slice(1)}:{" "}
          <b>
            {school.title[0]?.toLowerCase()}
            {school.title.slice(1)}
          </b>
          . {school.reason}
        </Typography>
      ))}
      {entry.cautions.length > 0 && (
        <Alert severity="warning" variant="outlined" sx={{ my: 1 }}>
          {entry.cautions.map((caution) => (
            <Typography key={caution} variant="body2">
              {caution}
            </Typography>
          ))}
        </Alert>
      )}
      {open && children}
      {open && choices.length > 0 && (
        <RadioGroup
          value={choice}
          onChange={(_, value) => {
            setChoice(value);
          }}
          aria-label={step.title}
        >
          {choices.map(([id, title]) => (
            <FormControlLabel key={id} value={id} control={<Radio />} label={title} disabled={closed} />
          ))}
        </RadioGroup>
      )}
      {open &&
        groups.map(([group, usual]) => (
          <Fasteners
            key={group}
            group={group}
            usual={usual}
            known={state.fasteners[group]}
            texts={texts[group] ?? {}}
            closed={closed}
            onChange={(to) => {
              setTexts({ ...texts, [group]: to });
            }}
          />
        ))}
      {open && !closed && <NotesForm entry={entry} state={state} typed={typed} choice={choice} onChange={setTyped} />}
      {open && entry.blocked && (
        <Typography variant="body2" color="warning" sx={{ mb: 1 }}>
          {entry.blocked}
        </Typography>
      )}
      {open && !closed && (entry.with_reason || goesBack || mayLeaveOut) && (
        <TextField
          label={
            entry.with_reason
              ? entry.inspection
                ? "Why go on without proof"
                : "Why there is no photo"
              : goesBack
                ? "If any is missing: where it is"
                : unheld
                  ? "If it is not held: why"
                  : "If it was not warmed: why"
          }
          value={reason}
          onChange={(event) => {
            setReason(event.target.value);
          }}
          slotProps={{ htmlInput: { maxLength: 300 } }}
          sx={{ mb: 1 }}
        />
      )}
      {open && !closed && (
        <Button
          variant="contained"
          data-step-done
          disabled={
            stopped || (choices.length > 0 && !choice) || !counted || !readable(typed) || (unheld && !reason.trim())
          }
          onClick={() => {
            onDo({
              gate: step.id,
              choice,
              reason,
              counts: Object.fromEntries(Object.entries(counts).map(([group, count]) => [group, count ?? 0])),
              notes: {
                ...notesOf(typed),
                fasteners: Object.fromEntries(
                  elsewhere.flatMap(([group, one]) => (one && says(one) ? [[group, one]] : [])),
                ),
              },
            });
          }}
        >
          Done: {step.title.toLowerCase()}
        </Button>
      )}
    </>
  );
}
