// A capture device on the external output is an ordinary video device of the browser; a screenshot file is the same thing from the device itself.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, got, type Job, type Run } from "../api/client";
import { sendPhoto } from "../api/files";
import { FRAME } from "../parts/filed";
import { ErrorNote } from "../parts/notes";

const LARGEST = { width: { ideal: 3840 }, height: { ideal: 2160 } };

function refusal(error: unknown): Error {
  const name = error instanceof DOMException ? error.name : "";
  if (name === "NotAllowedError")
    return new Error("The browser may not use the capture device. Allow the camera for this page, and try again.");
  if (name === "NotFoundError")
    return new Error("There is no capture device. Plug it in and try again, or send a screenshot file.");
  if (name === "NotReadableError")
    return new Error(
      "The capture device is in use or was unplugged. Close other programs that show it, and try again.",
    );
  return error instanceof Error ? error : new Error("The frame could not be taken. Try again.");
}

async function frameOf(video: HTMLVideoElement): Promise<File> {
  const canvas = document.createElement("canvas");
  canvas.width = video.videoWidth;
  canvas.height = video.videoHeight;
  canvas.getContext("2d")?.drawImage(video, 0, 0);
  const blob = await new Promise<Blob | null>((done) => {
    canvas.toBlob(done, "image/png");
  });
  if (!blob || canvas.width === 0)
    throw new Error("The capture device gave no picture. Look at its cable, and try again.");
  return new File([blob], "frame.png", { type: "image/png" });
}

export function Capture({ job, run }: { job: Job; run: Run }) {
  const queries = useQueryClient();
  const video = useRef<HTMLVideoElement>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const [stream, setStream] = useState<MediaStream | null>(null);
  const [devices, setDevices] = useState<MediaDeviceInfo[]>([]);
  const [device, setDevice] = useState("");
  const closed = Boolean(job.closed_at);
  useEffect(() => {
    if (video.current && stream) video.current.srcObject = stream;
  }, [stream]);
  useEffect(
    () => () => {
      stream?.getTracks().forEach((track) => {
        track.stop();
      });
    },
    [stream],
  );
  const open = useMutation({
    mutationFn: async (id: string) => {
      try {
        const opened = await navigator.mediaDevices.getUserMedia({
          video: { ...LARGEST, ...(id && { deviceId: { exact: id } }) },
        });
        setDevices((await navigator.mediaDevices.enumerateDevices()).filter((one) => one.kind === "videoinput"));
        setStream(opened);
      } catch (error) {
        throw refusal(error);
      }
    },
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ["job", job.id] });
  const send = useMutation({
    mutationFn: async (file: File | null) =>
      sendPhoto(
        run.id,
        file ?? (await frameOf(video.current ?? document.createElement("video"))),
        crypto.randomUUID(),
        FRAME,
      ),
    onSuccess: refresh,
  });
  const simulate = useMutation({
    mutationFn: () => got(client.POST("/api/runs/{run_id}/simulate/frame", { params: { path: { run_id: run.id } } })),
    onSuccess: refresh,
  });
  return (
    <Box sx={{ mb: 1 }}>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="Screenshot file"
        accept="image/*"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) send.mutate(file);
          event.target.value = "";
        }}
      />
      {stream && (
        <Box
          component="video"
          ref={video}
          autoPlay
          muted
          playsInline
          aria-label="What the capture device shows"
          sx={{ display: "block", width: "100%", maxHeight: 180, bgcolor: "#000", mb: 1 }}
        />
      )}
      {devices.length > 1 && (
        <TextField
          select
          label="Capture device"
          value={device}
          sx={{ mb: 1 }}
          onChange={(event) => {
            setDevice(event.target.value);
            open.mutate(event.target.value);
          }}
        >
          {devices.map((one, n) => (
            <MenuItem key={one.deviceId} value={one.deviceId}>
              {one.label || `Device ${n + 1}`}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {stream ? (
          <Button
            variant="contained"
            disabled={closed || send.isPending}
            onClick={() => {
              send.mutate(null);
            }}
          >
            Take this frame
          </Button>
        ) : (
          <Button
            variant="outlined"
            disabled={closed}
            onClick={() => {
              open.mutate(device);
            }}
          >
            Open the capture device
          </Button>
        )}
        <Button disabled={closed} onClick={() => chooser.current?.click()}>
          Screenshot file
        </Button>
        {job.can_simulate && (
          <Button
            disabled={closed || simulate.isPending}
            onClick={() => {
              simulate.mutate();
            }}
          >
            Simulated capture device: take a frame
          </Button>
        )}
      </Box>
      <Typography variant="body2" color="textSecondary">
        A frame or a screenshot is a copy of the signal: it needs no camera and is compared pixel by pixel.
      </Typography>
      <ErrorNote error={open.error ?? send.error ?? simulate.error} />
    </Box>
  );
}
