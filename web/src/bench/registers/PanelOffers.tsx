// What suppliers offer of a panel.

import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Panel, type PanelOffer } from "../api/client";
import { useShop } from "../api/hooks";
import { OfferDialog } from "../match/OfferDialog";
import { ErrorNote } from "../parts/notes";

export function PanelOffers({ panel }: { panel: Panel }) {
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
            {offer.price} + {offer.shipping} {shop.data?.currency}, {offer.delivery_days}{" "}
            {offer.delivery_days === 1 ? "day" : "days"}
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
