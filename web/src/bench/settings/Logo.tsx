// The picture on the shop's reports.

import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { client, got, type Shop } from "../api/client";
import { sendForm } from "../api/files";
import { ErrorNote } from "../parts/notes";

export function Logo({ shop, onChanged }: { shop: Shop; onChanged: (shop: Shop) => void }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const taken = (stored: Shop) => {
    queries.setQueryData(["shop"], stored);
    onChanged(stored);
  };
  const put = useMutation({
    mutationFn: (file: File) => sendForm("/api/shop/logo", { file }) as Promise<Shop>,
    onSuccess: taken,
  });
  const drop = useMutation({ mutationFn: () => got<Shop>(client.DELETE("/api/shop/logo")), onSuccess: taken });
  return (
    <Box role="group" aria-label="Logo" sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
      {shop.has_logo ? (
        <Box
          component="img"
          alt="The shop's logo"
          src={`/api/shop/logo?version=${shop.version}`}
          sx={{ maxWidth: 200, maxHeight: 60, bgcolor: "#fff", p: 0.5 }}
        />
      ) : (
        <Typography color="textSecondary">No logo on reports.</Typography>
      )}
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="File of the logo"
        accept="image/png,image/jpeg,image/webp"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) put.mutate(file);
        }}
      />
      <Button disabled={put.isPending} onClick={() => chooser.current?.click()}>
        {shop.has_logo ? "Another logo" : "Logo from a file"}
      </Button>
      {shop.has_logo && (
        <Button
          disabled={drop.isPending}
          onClick={() => {
            drop.mutate();
          }}
        >
          No logo
        </Button>
      )}
      <ErrorNote error={put.error ?? drop.error} />
    </Box>
  );
}
