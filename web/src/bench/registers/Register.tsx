// The register of panels: what the shop has met, and what suppliers offer of each.

import { Box, Button, TextField, Typography } from "@mui/material";
import { keepPreviousData, useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useSearchParams } from "react-router";
import { client, got, type Panel } from "../api/client";
import { PanelDialog, type PanelEntry, type PanelStart } from "../match/PanelDialog";
import { shownOf } from "../match/specFields";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { ImportDialog } from "./ImportDialog";
import { PanelDetails } from "./PanelDetails";
import { RowTable, type Column } from "./RowTable";

const PAGE = 100;

/** The whole register, page by page. */
const useRegister = (q: string) =>
  useInfiniteQuery({
    queryKey: ["panels", "pages", q],
    queryFn: ({ pageParam }) =>
      got<Panel[]>(client.GET("/api/panels", { params: { query: { q, limit: PAGE, start: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last: Panel[], pages: Panel[][]) => (last.length < PAGE ? undefined : pages.length * PAGE),
    placeholderData: keepPreviousData,
  });

const COLUMNS: readonly Column<Panel>[] = [
  { title: "Number", cell: (panel) => panel.name },
  { title: "Maker", cell: (panel) => panel.maker, wideOnly: true },
  {
    title: "Pixels",
    cell: ({ spec }) => (spec.width && spec.height ? `${spec.width} x ${spec.height}` : "unknown"),
  },
  { title: "Outline (mm)", cell: ({ spec }) => spec.outline_mm?.join(" x "), wideOnly: true },
  { title: "Signal", cell: ({ spec }) => spec.signal, wideOnly: true, width: 80 },
  {
    title: "Plug",
    cell: ({ spec }) =>
      [spec.connector_pins && `${spec.connector_pins} pins`, spec.connector_side].filter(Boolean).join(", "),
    wideOnly: true,
  },
  { title: "Mounting", cell: ({ spec }) => shownOf("mounting", spec), wideOnly: true },
  { title: "Touch", cell: ({ spec }) => shownOf("touch", spec), wideOnly: true, width: 70 },
  { title: "Finish", cell: ({ spec }) => shownOf("finish", spec), wideOnly: true, width: 90 },
];
const NEW: PanelStart = { name: "", maker: "", spec: {} };

export function Register() {
  const queries = useQueryClient();
  const [params, setParams] = useSearchParams();
  const q = params.get("q") ?? "";
  const panels = useRegister(q);
  const rows = panels.data?.pages.flat() ?? [];
  const { hasNextPage, isFetching, fetchNextPage } = panels;
  const more = useCallback(() => {
    if (hasNextPage && !isFetching) void fetchNextPage();
  }, [hasNextPage, isFetching, fetchNextPage]);
  const [open, setOpen] = useState<number | null>(null);
  const [importing, setImporting] = useState<"panels" | "offers" | null>(null);
  const [edited, setEdited] = useState<Panel | "new" | null>(null);
  const save = useMutation({
    mutationFn: (entry: PanelEntry) =>
      edited && edited !== "new"
        ? got<Panel>(
            client.PATCH("/api/panels/{panel_id}", {
              params: { path: { panel_id: edited.id } },
              body: { ...entry, version: edited.version },
            }),
          )
        : got<Panel>(client.POST("/api/panels", { body: { ...entry, version: 0 } })),
    onSuccess: (panel) => {
      void queries.invalidateQueries({ queryKey: ["panels"] });
      setEdited(null);
      setOpen(panel.id);
    },
  });
  const retire = useMutation({
    mutationFn: ({ panel, retired }: { panel: Panel; retired: boolean }) =>
      got(
        client.POST("/api/panels/{panel_id}/retired", {
          params: { path: { panel_id: panel.id } },
          body: { retired },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["panels"] }),
  });
  const gone = retire.data && retire.variables?.retired ? retire.variables.panel : null;
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Panels
        </Typography>
        <TextField
          label="Find by number (*, ?) or maker"
          type="search"
          value={q}
          slotProps={{ htmlInput: { maxLength: 100 } }}
          sx={{ width: { xs: "100%", sm: 260 } }}
          onChange={(event) => {
            setParams(event.target.value ? { q: event.target.value } : {}, { replace: true });
          }}
        />
        <Button component="a" href="/api/panels.csv" download>
          Export (CSV)
        </Button>
        <Button
          onClick={() => {
            setImporting("panels");
          }}
        >
          Import panels
        </Button>
        <Button
          onClick={() => {
            setImporting("offers");
          }}
        >
          Import offers
        </Button>
        <Button
          variant="contained"
          onClick={() => {
            setEdited("new");
          }}
        >
          Add a panel
        </Button>
      </Box>
      {gone && (
        <Box role="status" sx={{ px: 2, pb: 1 }}>
          {gone.name} was taken out of the register; jobs keep it.{" "}
          <Button
            size="small"
            onClick={() => {
              retire.mutate({ panel: gone, retired: false });
            }}
          >
            Take it back
          </Button>
        </Box>
      )}
      <ErrorNote error={retire.error} />
      {panels.isPending && <Waiting words="Loading the register" />}
      <ErrorNote error={panels.error} onRetry={() => void panels.refetch()} />
      {panels.data && rows.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            {q
              ? "No panel has this number. Add it, or search for less."
              : "The register is empty. It fills while you work: add the first panel, here or at a job's Match."}
          </Empty>
        </Box>
      )}
      <RowTable
        label="Panels"
        rows={rows}
        columns={COLUMNS}
        details={(panel) => (
          <PanelDetails
            panel={panel}
            onChange={() => {
              setEdited(panel);
            }}
            onRetire={() => {
              retire.mutate({ panel, retired: true });
            }}
          />
        )}
        open={open}
        onOpen={setOpen}
        onEnd={more}
      />
      {importing && (
        <ImportDialog
          what={importing}
          onDone={() => {
            void queries.invalidateQueries({ queryKey: ["panels"] });
            void queries.invalidateQueries({ queryKey: ["offers"] });
          }}
          onClose={() => {
            setImporting(null);
          }}
        />
      )}
      {edited && (
        <PanelDialog
          title={edited === "new" ? "Add a panel" : edited.name}
          action="Save"
          start={edited === "new" ? { ...NEW, name: q } : edited}
          busy={save.isPending}
          error={save.error}
          onSave={(entry) => {
            save.mutate(entry);
          }}
          onClose={() => {
            setEdited(null);
            save.reset();
          }}
        />
      )}
    </Box>
  );
}
