// What a supplier offers of a panel, or what lies on the shop's own shelf.

import {
  Autocomplete,
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Panel, type Supplier } from "../api/client";
import { useShop } from "../api/hooks";
import { ErrorNote } from "../parts/notes";
import { COMES_WITH, GRADES } from "./specFields";

const FIELDS = [
  ["price", "Price", ""],
  ["shipping", "Freight", "0"],
  ["delivery_days", "Delivery (business days)", ""],
  ["duty_percent", "Duty (%)", "0"],
  ["warranty_months", "Warranty (months)", "0"],
  ["doa_days", "Days to return a dead one", "0"],
] as const;
type Name = (typeof FIELDS)[number][0];
const SHELF = "Own shelf";

export const useSuppliers = () =>
  useQuery({ queryKey: ["suppliers"], queryFn: () => got<Supplier[]>(client.GET("/api/suppliers")) });

export function OfferDialog({ panel, onDone, onClose }: { panel: Panel; onDone: () => void; onClose: () => void }) {
  const shop = useShop();
  const suppliers = useSuppliers();
  const [supplier, setSupplier] = useState("");
  const [grade, setGrade] = useState("");
  const [shelf, setShelf] = useState("");
  const [onShelf, setOnShelf] = useState(false);
  const [comesWith, setComesWith] = useState<readonly string[]>([]);
  const [texts, setTexts] = useState(
    () => Object.fromEntries(FIELDS.map(([name, , start]) => [name, start])) as Record<Name, string>,
  );
  const number = (name: Name) => texts[name].trim().replace(",", ".");
  const ready = onShelf ? Number(shelf) > 0 : supplier.trim() !== "" && Number(number("price")) > 0;
  const currency = shop.data?.currency ?? "EUR";
  const add = useMutation({
    mutationFn: () =>
      got(
        client.POST("/api/panels/{panel_id}/offers", {
          params: { path: { panel_id: panel.id } },
          body: {
            supplier: onShelf ? SHELF : supplier,
            grade,
            currency,
            price: number("price") || "0",
            shipping: onShelf ? "0" : number("shipping") || "0",
            duty_percent: onShelf ? "0" : number("duty_percent") || "0",
            delivery_days: onShelf ? 0 : Number(number("delivery_days") || 0),
            warranty_months: Number(number("warranty_months") || 0),
            doa_days: onShelf ? 0 : Number(number("doa_days") || 0),
            on_shelf: onShelf ? Number(shelf) : null,
            comes_with: [...comesWith],
            breaks: [],
          },
        }),
      ),
    onSuccess: () => {
      onDone();
      onClose();
    },
  });
  const shown = FIELDS.filter(([name]) => !onShelf || name === "price" || name === "warranty_months");
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          if (ready) add.mutate();
        }}
      >
        <DialogTitle>Offer of {panel.name}</DialogTitle>
        <DialogContent>
          <FormControlLabel
            control={
              <Checkbox
                checked={onShelf}
                onChange={(event) => {
                  setOnShelf(event.target.checked);
                }}
              />
            }
            label="It lies on our own shelf"
          />
          <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 1.5, pt: 1 }}>
            {onShelf ? (
              <TextField
                label="How many"
                required
                value={shelf}
                slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 4 } }}
                onChange={(event) => {
                  setShelf(event.target.value);
                }}
              />
            ) : (
              <Autocomplete
                freeSolo
                options={(suppliers.data ?? []).map((one) => one.name)}
                inputValue={supplier}
                onInputChange={(_, text) => {
                  setSupplier(text);
                }}
                renderInput={(params) => <TextField {...params} label="Supplier" required autoFocus />}
              />
            )}
            <TextField
              select
              label="Grade"
              value={grade}
              onChange={(event) => {
                setGrade(event.target.value);
              }}
            >
              <MenuItem value="">Not known</MenuItem>
              {GRADES.map(([id, title]) => (
                <MenuItem key={id} value={id}>
                  {title}
                </MenuItem>
              ))}
            </TextField>
            {shown.map(([name, label]) => (
              <TextField
                key={name}
                label={`${label}${name === "price" || name === "shipping" ? ` (${currency})` : ""}`}
                required={name === "price" && !onShelf}
                value={texts[name]}
                slotProps={{ htmlInput: { maxLength: 12, inputMode: "decimal" } }}
                onChange={(event) => {
                  setTexts({ ...texts, [name]: event.target.value });
                }}
              />
            ))}
          </Box>
          <Typography variant="h3" sx={{ mt: 2 }}>
            Comes with it
          </Typography>
          <Box sx={{ display: "flex", flexWrap: "wrap" }}>
            {COMES_WITH.map(([id, title]) => (
              <FormControlLabel
                key={id}
                control={
                  <Checkbox
                    checked={comesWith.includes(id)}
                    onChange={(event) => {
                      setComesWith(
                        event.target.checked ? [...comesWith, id] : comesWith.filter((other) => other !== id),
                      );
                    }}
                  />
                }
                label={title}
              />
            ))}
          </Box>
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
