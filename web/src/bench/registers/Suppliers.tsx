// Suppliers and their terms; what their own orders told is shown with each offer.

import {
  Box,
  Button,
  ButtonBase,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  TextField,
  Typography,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Supplier } from "../api/client";
import { useShop } from "../api/hooks";
import { useSuppliers } from "../match/OfferDialog";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { History } from "../parts/History";

type Figures = { supplier_id: number; orders: number; late_days: number | null; arrived: number; dead: number };

function SupplierDialog({ start, onClose }: { start: Supplier | null; onClose: () => void }) {
  const queries = useQueryClient();
  const currency = useShop().data?.currency ?? "";
  const [texts, setTexts] = useState({
    name: start?.name ?? "",
    cut_off: start?.cut_off?.slice(0, 5) ?? "",
    free_freight_from: start?.free_freight_from ?? "",
    return_cost: String(start?.return_cost ?? "0"),
    terms: start?.terms ?? "",
  });
  const save = useMutation({
    mutationFn: () => {
      const body = {
        name: texts.name,
        cut_off: texts.cut_off || null,
        free_freight_from: String(texts.free_freight_from).trim().replace(",", ".") || null,
        return_cost: texts.return_cost.trim().replace(",", ".") || "0",
        terms: texts.terms,
        version: start?.version ?? 0,
      };
      return start
        ? got(client.PATCH("/api/suppliers/{supplier_id}", { params: { path: { supplier_id: start.id } }, body }))
        : got(client.POST("/api/suppliers", { body }));
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["suppliers"] });
      onClose();
    },
  });
  const retire = useMutation({
    mutationFn: (supplier_id: number) =>
      got(client.DELETE("/api/suppliers/{supplier_id}", { params: { path: { supplier_id } } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["suppliers"] });
      onClose();
    },
  });
  const field = (name: keyof typeof texts) => ({
    value: texts[name],
    onChange: (event: { target: { value: string } }) => {
      setTexts({ ...texts, [name]: event.target.value });
    },
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          if (texts.name.trim()) save.mutate();
        }}
      >
        <DialogTitle>{start ? start.name : "Add a supplier"}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 1.5 }}>
          <TextField
            label="Name"
            required
            autoFocus
            sx={{ mt: 1 }}
            {...field("name")}
            slotProps={{ htmlInput: { maxLength: 80 } }}
          />
          <TextField
            label="Orders until"
            type="time"
            helperText="What is ordered later counts from the next business day"
            slotProps={{ inputLabel: { shrink: true } }}
            {...field("cut_off")}
          />
          <TextField label={`Free freight from (${currency})`} inputMode="decimal" {...field("free_freight_from")} />
          <TextField label={`What a return costs (${currency})`} inputMode="decimal" {...field("return_cost")} />
          <TextField
            label="Terms"
            multiline
            minRows={2}
            helperText="Return, compatibility guarantee, support"
            {...field("terms")}
            slotProps={{ htmlInput: { maxLength: 1000 } }}
          />
          <ErrorNote error={save.error ?? retire.error} />
          {start && <History kind="supplier" id={start.id} version={start.version ?? 0} />}
        </DialogContent>
        <DialogActions>
          {start && (
            <Button
              color="inherit"
              sx={{ mr: "auto" }}
              disabled={retire.isPending}
              onClick={() => {
                retire.mutate(start.id);
              }}
            >
              Buy there no more
            </Button>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!texts.name.trim() || save.isPending}>
            Save
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

export function Suppliers() {
  const suppliers = useSuppliers();
  const figures = useQuery({
    queryKey: ["suppliers", "figures"],
    queryFn: () => got<Figures[]>(client.GET("/api/supplier-figures")),
  });
  const [edited, setEdited] = useState<Supplier | "new" | null>(null);
  const told = (id: number): string => {
    if (!figures.data) return "";
    const one = figures.data.find((row) => row.supplier_id === id);
    if (!one || one.orders === 0) return "No order of yours yet: what is usual is taken.";
    const late =
      one.late_days === null
        ? ""
        : one.late_days <= 0
          ? ", on time on average"
          : `, ${one.late_days.toFixed(1)} business days late on average`;
    const dead = one.arrived ? `; ${one.dead} of ${one.arrived} panels dead or marked` : "";
    return `${one.orders} ${one.orders === 1 ? "order" : "orders"}${late}${dead}.`;
  };
  return (
    <Box>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Suppliers
        </Typography>
        <Button
          variant="contained"
          onClick={() => {
            setEdited("new");
          }}
        >
          Add a supplier
        </Button>
      </Box>
      {suppliers.isPending && <Waiting words="Loading the suppliers" />}
      <ErrorNote error={suppliers.error} onRetry={() => void suppliers.refetch()} />
      {suppliers.data?.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>No supplier yet. One is added with its first offer, or here.</Empty>
        </Box>
      )}
      {suppliers.data?.map((supplier) => (
        <ButtonBase
          key={supplier.id}
          onClick={() => {
            setEdited(supplier);
          }}
          sx={{
            width: "100%",
            display: "block",
            textAlign: "left",
            borderTop: 1,
            borderColor: "divider",
            px: 2,
            py: 1,
            minHeight: 56,
          }}
        >
          <Typography sx={{ fontWeight: 600 }}>{supplier.name}</Typography>
          <Typography variant="body2" color="textSecondary">
            {told(supplier.id)} {supplier.terms}
          </Typography>
        </ButtonBase>
      ))}
      {edited && (
        <SupplierDialog
          start={edited === "new" ? null : edited}
          onClose={() => {
            setEdited(null);
          }}
        />
      )}
    </Box>
  );
}
