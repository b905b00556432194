// The register of panels: what the shop has met, and what suppliers offer of each.

import { Box, Button, ButtonBase, TextField, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { client, got, type Panel, type PanelOffer } from "../api/client";
import { useShop } from "../api/hooks";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { ImportDialog } from "./ImportDialog";
import { usePanels } from "./usePanels";
import { OfferDialog } from "./OfferDialog";
import { PanelDialog, type PanelEntry } from "./PanelDialog";
import { briefly, SPEC_FIELDS } from "./specFields";

function Offers({ panel }: { panel: Panel }) {
  const queries = useQueryClient();
  const shop = useShop();
  const key = ["offers", panel.id];
  const [adding, setAdding] = useState(false);
  const offers = useQuery({
    queryKey: key,
    queryFn: () =>
      got<PanelOffer[]>(client.GET("/api/panels/{panel_id}/offers", { params: { path: { panel_id: panel.id } } })),
  });
  const withdraw = useMutation({
    mutationFn: (offer_id: number) => got(client.DELETE("/api/offers/{offer_id}", { params: { path: { offer_id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: key }),
  });
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="h3">Offers</Typography>
      {offers.data?.length === 0 && <Typography color="textSecondary">Nobody offers it yet.</Typography>}
      {offers.data?.map((offer) => (
        <Box
          key={offer.id}
          sx={{
            display: "flex",
            flexWrap: "wrap",
            gap: 1.5,
            alignItems: "center",
            borderTop: 1,
            borderColor: "divider",
          }}
        >
          <Typography sx={{ flex: 1, minWidth: 160 }}>{offer.supplier}</Typography>
          <Typography variant="body2">
            {offer.price} + {offer.shipping} {shop.data?.currency}, {offer.delivery_days} days
          </Typography>
          <Button
            size="small"
            onClick={() => {
              withdraw.mutate(offer.id);
            }}
          >
            No longer offered
          </Button>
        </Box>
      ))}
      <ErrorNote error={offers.error ?? withdraw.error} />
      <Button
        variant="outlined"
        sx={{ mt: 1 }}
        onClick={() => {
          setAdding(true);
        }}
      >
        Add an offer
      </Button>
      {adding && (
        <OfferDialog
          panel={panel}
          onDone={() => {
            void queries.invalidateQueries({ queryKey: key });
          }}
          onClose={() => {
            setAdding(false);
          }}
        />
      )}
    </Box>
  );
}

function Details({ panel, onChange }: { panel: Panel; onChange: () => void }) {
  const known = SPEC_FIELDS.filter(({ name }) => panel.spec[name] !== null && panel.spec[name] !== undefined);
  return (
    <Box sx={{ p: 2, bgcolor: "background.paper" }}>
      <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "minmax(140px, auto) 1fr", gap: 0.5, m: 0 }}>
        {known.map((field) => {
          const value = panel.spec[field.name];
          const text = Array.isArray(value) ? value.join(" x ") : String(value);
          return (
            <Box key={field.name} sx={{ display: "contents" }}>
              <Typography component="dt" variant="body2" color="textSecondary">
                {field.label.split(",")[0]}
              </Typography>
              <Typography component="dd" variant="body2" sx={{ m: 0 }}>
                {field.choices?.find(([id]) => id === text)?.[1] ?? text}
              </Typography>
            </Box>
          );
        })}
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
        {known.length === SPEC_FIELDS.length
          ? "Everything is known."
          : `${SPEC_FIELDS.length - known.length} not known.`}
      </Typography>
      <Button variant="outlined" sx={{ mt: 1 }} onClick={onChange}>
        Change
      </Button>
      <Offers panel={panel} />
    </Box>
  );
}

const NEW: PanelEntry = { name: "", maker: "", spec: {} };

export function Register() {
  const queries = useQueryClient();
  const [params, setParams] = useSearchParams();
  const q = params.get("q") ?? "";
  const panels = usePanels(q);
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
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Panels
        </Typography>
        <TextField
          label="Find by number or maker"
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
      {panels.isPending && <Waiting words="Loading the register" />}
      <ErrorNote error={panels.error} onRetry={() => void panels.refetch()} />
      {panels.data?.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            {q
              ? "No panel has this number. Add it, or search for less."
              : "The register is empty. It fills while you work: add the first panel, here or at a job's Match."}
          </Empty>
        </Box>
      )}
      {panels.data?.map((panel) => (
        <Box key={panel.id} sx={{ borderTop: 1, borderColor: "divider" }}>
          <ButtonBase
            aria-expanded={open === panel.id}
            onClick={() => {
              setOpen(open === panel.id ? null : panel.id);
            }}
            sx={{ width: "100%", justifyContent: "flex-start", textAlign: "left", gap: 2, px: 2, py: 1, minHeight: 48 }}
          >
            <Typography sx={{ fontWeight: 600, minWidth: 120 }}>{panel.name}</Typography>
            <Typography variant="body2" color="textSecondary">
              {panel.maker ? `${panel.maker}, ` : ""}
              {briefly(panel.spec)}
            </Typography>
          </ButtonBase>
          {open === panel.id && (
            <Details
              panel={panel}
              onChange={() => {
                setEdited(panel);
              }}
            />
          )}
        </Box>
      ))}
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
