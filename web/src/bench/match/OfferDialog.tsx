// What a supplier offers of a panel.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Panel } from "../api/client";
import { useShop } from "../api/hooks";
import { ErrorNote } from "../parts/notes";

const FIELDS = [
  ["supplier", "Supplier", ""],
  ["price", "Price", ""],
  ["shipping", "Freight", "0"],
  ["delivery_days", "Delivery (days)", ""],
  ["warranty_months", "Warranty (months)", "0"],
  ["doa_days", "Days to return a dead one", "0"],
] as const;
type Name = (typeof FIELDS)[number][0];

export function OfferDialog({ panel, onDone, onClose }: { panel: Panel; onDone: () => void; onClose: () => void }) {
  const shop = useShop();
  const [texts, setTexts] = useState(
    () => Object.fromEntries(FIELDS.map(([name, , start]) => [name, start])) as Record<Name, string>,
  );
  const number = (name: Name) => texts[name].trim().replace(",", ".");
  const ready = texts.supplier.trim() !== "" && Number(number("price")) > 0;
  const add = useMutation({
    mutationFn: () =>
      got(
        client.POST("/api/panels/{panel_id}/offers", {
          params: { path: { panel_id: panel.id } },
          body: {
            supplier: texts.supplier,
            price: number("price"),
            shipping: number("shipping") || "0",
            delivery_days: Number(number("delivery_days") || 0),
            warranty_months: Number(number("warranty_months") || 0),
            doa_days: Number(number("doa_days") || 0),
          },
        }),
      ),
    onSuccess: () => {
      onDone();
      onClose();
    },
  });
  const money = shop.data ? ` (${shop.data.currency})` : "";
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          if (ready) add.mutate();
        }}
      >
        <DialogTitle>Offer of {panel.name}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 1.5 }}>
          {FIELDS.map(([name, label], index) => (
            <TextField
              key={name}
              label={`${label}${name === "price" || name === "shipping" ? money : ""}`}
              required={index < 2}
              autoFocus={index === 0}
              value={texts[name]}
              sx={{ mt: index === 0 ? 1 : 0 }}
              slotProps={{ htmlInput: { maxLength: 80, inputMode: index ? "decimal" : undefined } }}
              onChange={(event) => {
                setTexts({ ...texts, [name]: event.target.value });
              }}
            />
          ))}
          <ErrorNote error={add.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={add.isPending || !ready}>
            Add the offer
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
