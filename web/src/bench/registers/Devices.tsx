// Devices that the shop meets: their names, those that are easily taken for them, and the panels that were found in them.

import { Box, Button, TextField, Typography } from "@mui/material";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { client, got, type Device, type DeviceLook } from "../api/client";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { DEVICE_WORDS } from "../words";
import { History } from "../parts/History";
import { SameAs } from "./SameAs";
import { RowTable, type Column } from "./RowTable";
import { DeviceDialog, type DeviceStart } from "./DeviceDialog";

export const useDevices = (q: string) =>
  useQuery({
    queryKey: ["devices", q],
    queryFn: () => got<Device[]>(client.GET("/api/devices", { params: { query: { q, limit: 500 } } })),
    placeholderData: keepPreviousData,
  });
export const useDeviceLook = (id: number | null) =>
  useQuery({
    queryKey: ["devices", "look", id],
    enabled: id !== null,
    queryFn: () =>
      got<DeviceLook>(client.GET("/api/devices/{device_id}", { params: { path: { device_id: id ?? 0 } } })),
  });

export function deviceBriefly(device: Device): string {
  const size = device.panel_width && device.panel_height ? `${device.panel_width} x ${device.panel_height}` : "";
  const diagonal = device.diagonal_in ? `${device.diagonal_in} in` : "";
  return [DEVICE_WORDS[device.kind] ?? device.kind, device.maker, diagonal, size].filter(Boolean).join(", ");
}

function Details({ device, onChange }: { device: Device; onChange: () => void }) {
  const queries = useQueryClient();
  const look = useDeviceLook(device.id);
  const [words, setWords] = useState("");
  const others = useDevices(words);
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["devices"] });
  };
  const merge = useMutation({
    mutationFn: (other_id: number) =>
      got(
        client.POST("/api/devices/{device_id}/merge", {
          params: { path: { device_id: device.id } },
          body: { other_id },
        }),
      ),
    onSettled: done,
  });
  const retire = useMutation({
    mutationFn: () => got(client.DELETE("/api/devices/{device_id}", { params: { path: { device_id: device.id } } })),
    onSettled: done,
  });
  return (
    <Box sx={{ p: 2, bgcolor: "background.paper", display: "grid", gap: 1 }}>
      {look.data?.alike.map((one) => (
        <Typography key={one.device.id} variant="body2" color="warning">
          Easily taken for {one.device.title}: {one.why}
        </Typography>
      ))}
      {look.data?.found.map((one) => (
        <Typography key={one.panel.id} variant="body2">
          {one.panel.name} in {one.jobs} of {one.of} closed jobs.
        </Typography>
      ))}
      {look.data?.found.length === 0 && (
        <Typography variant="body2" color="textSecondary">
          No closed job of it named a panel yet.
        </Typography>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <Button variant="outlined" onClick={onChange}>
          Change
        </Button>
        <SameAs
          own={device}
          options={others.data ?? []}
          name={(one) => one.title}
          what="device"
          goes="its names and jobs come"
          onWords={setWords}
          onMerge={(other) => {
            merge.mutate(other);
          }}
        />
        <Button
          onClick={() => {
            retire.mutate();
          }}
        >
          Take out of the register
        </Button>
      </Box>
      <ErrorNote error={look.error ?? merge.error ?? retire.error} />
      <History kind="device" id={device.id} version={device.version ?? 0} />
    </Box>
  );
}

const COLUMNS: readonly Column<Device>[] = [
  { title: "Names on its labels", cell: (device) => device.title },
  { title: "Kind", cell: (device) => DEVICE_WORDS[device.kind] ?? device.kind, width: 130 },
  { title: "Maker", cell: (device) => device.maker, wideOnly: true },
  {
    title: "Size",
    cell: (device) => (device.diagonal_in ? `${device.diagonal_in} in` : ""),
    wideOnly: true,
    width: 100,
  },
  {
    title: "Pixels",
    cell: (device) =>
      device.panel_width && device.panel_height ? `${device.panel_width} x ${device.panel_height}` : "",
    wideOnly: true,
    width: 150,
  },
];

export function Devices() {
  const [params, setParams] = useSearchParams();
  const q = params.get("q") ?? "";
  const devices = useDevices(q);
  const [open, setOpen] = useState<number | null>(null);
  const [edited, setEdited] = useState<DeviceStart | null>(null);
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Devices
        </Typography>
        <TextField
          label="Find by any of its names"
          type="search"
          value={q}
          slotProps={{ htmlInput: { maxLength: 100 } }}
          sx={{ width: { xs: "100%", sm: 260 } }}
          onChange={(event) => {
            setParams(event.target.value ? { q: event.target.value } : {}, { replace: true });
          }}
        />
        <Button
          variant="contained"
          onClick={() => {
            setEdited({ names: q ? [q] : [] });
          }}
        >
          Add a device
        </Button>
      </Box>
      {devices.isPending && <Waiting words="Loading the register" />}
      <ErrorNote error={devices.error} onRetry={() => void devices.refetch()} />
      {devices.data?.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            {q ? "No device has this name. Add it, or search for less." : "The register is empty. It fills at intake."}
          </Empty>
        </Box>
      )}
      <RowTable
        label="Devices"
        rows={devices.data ?? []}
        columns={COLUMNS}
        details={(device) => (
          <Details
            device={device}
            onChange={() => {
              setEdited(device);
            }}
          />
        )}
        open={open}
        onOpen={setOpen}
      />
      {edited && (
        <DeviceDialog
          start={edited}
          onSaved={(device) => {
            setEdited(null);
            setOpen(device.id);
          }}
          onClose={() => {
            setEdited(null);
          }}
        />
      )}
    </Box>
  );
}
