// A maker's name as the shop writes it: those that are known are offered while it is typed.

import { TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { client, got } from "../api/client";

export function MakerField({ value, onChange }: { value: string; onChange: (to: string) => void }) {
  const list = useId();
  const makers = useQuery({
    queryKey: ["makers"],
    queryFn: () => got<string[]>(client.GET("/api/makers")),
    staleTime: 60_000,
  });
  return (
    <>
      <TextField
        label="Maker"
        value={value}
        slotProps={{ htmlInput: { maxLength: 80, list, autoComplete: "off" } }}
        onChange={(event) => {
          onChange(event.target.value);
        }}
      />
      <datalist id={list}>
        {makers.data?.map((maker) => (
          <option key={maker} value={maker} />
        ))}
      </datalist>
    </>
  );
}
