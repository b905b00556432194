// The shop's own procedures: begun with one that ships, written as text, checked in full before they are stored.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, got, type ProcedureOut } from "../api/client";
import type { components } from "../api/schema";
import { useMe } from "../api/hooks";
import { StepGraph } from "../fit/StepGraph";
import { Empty, ErrorNote, Waiting } from "../parts/notes";

const OWN = "own_";
const MOST_LETTERS = 100_000;
type Checked = components["schemas"]["CheckedOut"];

interface Draft {
  slug: string;
  text: string;
  basedOn: string;
  version: number;
}

function Editor({ start, readOnly, onClose }: { start: Draft; readOnly: boolean; onClose: () => void }) {
  const queries = useQueryClient();
  const [slug, setSlug] = useState(start.slug);
  const [text, setText] = useState(start.text);
  const at = { params: { path: { procedure_id: slug } } };
  const body = { text, based_on: start.basedOn, version: start.version };
  const chooser = useRef<HTMLInputElement>(null);
  const [unread, setUnread] = useState<Error | null>(null);
  const read = async (file: File) => {
    try {
      if (file.size > MOST_LETTERS) throw new Error("The file is far too long for a procedure.");
      setText(new TextDecoder("utf-8", { fatal: true }).decode(await file.arrayBuffer()));
      setUnread(null);
      check.reset();
    } catch (error) {
      const why = error instanceof TypeError ? "It is not UTF-8 text. Save it as UTF-8, then read it again." : "";
      setUnread(why ? new Error(why) : (error as Error));
    }
  };
  const area = useRef<HTMLTextAreaElement>(null);
  const toStep = (id: string) => {
    const at = text.search(new RegExp(`(id|use): *${id}\\b`));
    if (at < 0 || !area.current) return;
    area.current.focus();
    area.current.setSelectionRange(at, at + id.length + 4);
  };
  const check = useMutation({
    mutationFn: () => got<Checked>(client.POST("/api/procedures/{procedure_id}/check", { ...at, body })),
  });
  const save = useMutation({
    mutationFn: () => got(client.PUT("/api/procedures/{procedure_id}", { ...at, body })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["procedures"] });
      onClose();
    },
  });
  return (
    <Box component="section" aria-label="Procedure" sx={{ px: 2, pb: 2 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
        <TextField
          label="Name"
          value={slug}
          disabled={start.version > 0 || readOnly}
          sx={{ width: 240 }}
          slotProps={{ htmlInput: { maxLength: 34 } }}
          onChange={(event) => {
            setSlug(event.target.value);
          }}
        />
        {!readOnly && (
          <>
            <Button
              variant="outlined"
              disabled={check.isPending}
              onClick={() => {
                check.mutate();
              }}
            >
              Check it
            </Button>
            <Button
              variant="contained"
              disabled={save.isPending}
              onClick={() => {
                save.mutate();
              }}
            >
              Save
            </Button>
          </>
        )}
        <Button
          component="a"
          download={`${slug}.yaml`}
          href={`data:application/yaml;charset=utf-8,${encodeURIComponent(text)}`}
        >
          As a file
        </Button>
        {!readOnly && (
          <>
            <input
              ref={chooser}
              type="file"
              hidden
              aria-label="File of a procedure"
              accept=".yaml,.yml,text/plain"
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) void read(file);
              }}
            />
            <Button onClick={() => chooser.current?.click()}>From a file</Button>
          </>
        )}
        <Button onClick={onClose}>Close</Button>
      </Box>
      {check.data && <Meaning told={check.data} onStep={toStep} />}
      <ErrorNote error={unread ?? save.error ?? check.error} />
      <TextField
        multiline
        minRows={18}
        maxRows={36}
        value={text}
        disabled={readOnly}
        inputRef={area}
        aria-label="Text of the procedure"
        slotProps={{
          htmlInput: { spellCheck: false, maxLength: MOST_LETTERS, "aria-label": "Text of the procedure" },
          input: { sx: { fontFamily: "monospace", fontSize: "0.85rem", lineHeight: 1.5 } },
        }}
        onChange={(event) => {
          setText(event.target.value);
          check.reset();
        }}
      />
    </Box>
  );
}

/** What the text means: its order as a drawing, its time, and what it changes. */
function Meaning({ told, onStep }: { told: Checked; onStep: (id: string) => void }) {
  const steps = told.steps.map((step) => ({
    step: { ...step, when: Object.fromEntries(step.when.map((id) => [id, []])) },
    state: "blocked",
  }));
  const minutes = told.steps.reduce((sum, step) => sum + step.minutes, 0);
  const waiting = told.steps.reduce((sum, step) => sum + step.wait_minutes, 0);
  return (
    <Box role="status" sx={{ mb: 1 }}>
      <Typography variant="body2" sx={{ mb: 1 }}>
        {told.title}: {told.steps.length} steps, each can be reached; {Math.round(minutes)} minutes of work
        {waiting > 0 ? `, ${Math.round(waiting)} of waiting` : ""}.
      </Typography>
      <StepGraph steps={steps} onOpen={onStep} />
      {told.changes.length > 0 && (
        <Box component="details">
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" }}>
            What it changes ({told.changes.length})
          </Box>
          <Box component="ul" sx={{ mt: 0, pl: 2.5 }}>
            {told.changes.map((line) => (
              <Typography key={line} component="li" variant="body2">
                {line}
              </Typography>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}

export function Procedures() {
  const queries = useQueryClient();
  const me = useMe();
  const lead = Boolean(me.data?.roles.includes("lead"));
  const [draft, setDraft] = useState<Draft | null>(null);
  const [base, setBase] = useState("");
  const list = useQuery({
    queryKey: ["procedures"],
    queryFn: () => got<ProcedureOut[]>(client.GET("/api/procedures")),
  });
  const open = useMutation({
    mutationFn: async ({ id, own }: { id: string; own: ProcedureOut | null }) => {
      const told = await got<{ text: string }>(
        client.GET("/api/procedures/{procedure_id}/text", { params: { path: { procedure_id: id } } }),
      );
      setDraft({
        slug: own ? own.id : `${OWN}${id.replace(OWN, "")}_2`,
        text: told.text,
        basedOn: own ? own.based_on : id,
        version: own?.version ?? 0,
      });
    },
  });
  const retire = useMutation({
    mutationFn: (procedure_id: string) =>
      got(client.DELETE("/api/procedures/{procedure_id}", { params: { path: { procedure_id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["procedures"] }),
  });
  const mine = (list.data ?? []).filter((one) => one.version > 0 && !one.retired);
  const shipped = (list.data ?? []).filter((one) => one.version === 0);
  return (
    <Box sx={{ maxWidth: 1100 }}>
      <Box sx={{ p: 2 }}>
        <Typography sx={{ mb: 1 }}>
          A way that the shop works by itself: another count of screws, another order, a step more. It is offered at Fit
          before those that ship; a job keeps the version that it began with. Local rules and licensed practice come
          first.
        </Typography>
        {list.isPending && <Waiting words="Loading the procedures" />}
        <ErrorNote error={list.error ?? open.error ?? retire.error} onRetry={() => void list.refetch()} />
        {list.data && mine.length === 0 && <Empty>No own procedure yet.</Empty>}
        {mine.map((one) => (
          <Box
            key={one.id}
            sx={{
              display: "flex",
              flexWrap: "wrap",
              gap: 1,
              alignItems: "center",
              borderTop: 1,
              borderColor: "divider",
            }}
          >
            <Typography sx={{ flex: 1, minWidth: 220, py: 1 }}>
              <b>{one.title}</b> ({one.id}), {one.steps} steps, version {one.version} by {one.changed_by}
            </Typography>
            <Button
              onClick={() => {
                open.mutate({ id: one.id, own: one });
              }}
            >
              {lead ? "Change" : "Read"}
            </Button>
            {lead && (
              <Button
                onClick={() => {
                  retire.mutate(one.id);
                }}
              >
                Offer it no more
              </Button>
            )}
          </Box>
        ))}
        {lead && shipped.length > 0 && !draft && (
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 2, alignItems: "center" }}>
            <TextField
              select
              label="Begin with"
              value={base}
              sx={{ width: 320 }}
              onChange={(event) => {
                setBase(event.target.value);
              }}
            >
              {shipped.map((one) => (
                <MenuItem key={one.id} value={one.id}>
                  {one.title}
                </MenuItem>
              ))}
            </TextField>
            <Button
              variant="outlined"
              disabled={!base}
              onClick={() => {
                open.mutate({ id: base, own: null });
              }}
            >
              Make an own version
            </Button>
          </Box>
        )}
      </Box>
      {draft && (
        <Editor
          key={`${draft.slug} ${draft.version}`}
          start={draft}
          readOnly={!lead}
          onClose={() => {
            setDraft(null);
          }}
        />
      )}
    </Box>
  );
}
