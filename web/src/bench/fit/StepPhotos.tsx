// Photos at a step, what was found on the way, what was done by us; beside them what the last job of this device met here.

import { Box, Button, Checkbox, FormControlLabel, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { newKey } from "../../common/key";
import { client, type FitState, type Job } from "../api/client";
import { sendPhoto } from "../api/files";
import { openRun, useJobChange } from "../api/job";
import { LinkDialog } from "../parts/LinkDialog";
import { OnePhoto } from "../parts/OnePhoto";
import { ErrorNote } from "../parts/notes";

interface NoteIn {
  step: string;
  text: string;
  place: string;
  was_so: boolean | null;
  consent_needed: boolean;
  photo_id: number | null;
}

function Thumbs({ ids, words }: { ids: readonly number[]; words: string }) {
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 0.5 }}>
      {ids.map((id) => (
        <Box
          key={id}
          component="a"
          href={`/api/photos/${id}/image?size=view`}
          target="_blank"
          rel="noreferrer"
          sx={{ lineHeight: 0, border: 1, borderColor: "divider" }}
        >
          <img src={`/api/photos/${id}/image`} alt={words} style={{ width: 120, height: 80, objectFit: "cover" }} />
        </Box>
      ))}
    </Box>
  );
}

/** Photos that the phone sent while fitting and that nobody gave to a step yet; and the code that opens the phone's camera. */
function FromThePhone({
  job,
  state,
  onTake,
}: {
  job: Job;
  state: FitState;
  onTake: (photoId: number) => Promise<unknown>;
}) {
  const [link, setLink] = useState<number | null>(null);
  const opening = useMutation({
    mutationFn: () => openRun(job.id, "bench"),
    onSuccess: (run) => {
      setLink(run.id);
    },
  });
  const taken = new Set(state.notes.map((note) => note.photo_id));
  const run = job.runs.find((one) => one.stage === "bench");
  const loose = (run?.photos ?? []).filter((photo) => !photo.removed && !taken.has(photo.id));
  return (
    <>
      <Button
        size="small"
        disabled={opening.isPending}
        onClick={() => {
          opening.mutate();
        }}
      >
        Phone camera
      </Button>
      {loose.map((photo) => (
        <Box key={photo.id} sx={{ display: "flex", gap: 1, alignItems: "center", flexBasis: "100%" }}>
          <Thumbs ids={[photo.id]} words="Photo that the phone sent" />
          <Button
            size="small"
            variant="outlined"
            onClick={() => {
              void onTake(photo.id);
            }}
          >
            It belongs to this step
          </Button>
        </Box>
      ))}
      <ErrorNote error={opening.error} />
      {link !== null && (
        <LinkDialog
          runId={link}
          kind="snap"
          onClose={() => {
            setLink(null);
          }}
        />
      )}
    </>
  );
}

export function StepPhotos({ job, state, step }: { job: Job; state: FitState; step: string }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [found, setFound] = useState<boolean | null>(null);
  const [text, setText] = useState("");
  const [place, setPlace] = useState("");
  const [consent, setConsent] = useState(false);
  const [sending, setSending] = useState(false);
  const [failed, setFailed] = useState<unknown>(null);
  const path = { params: { path: { job_id: job.id } } };
  const add = useJobChange<NoteIn>(job.id, (body) => client.POST("/api/jobs/{job_id}/fit/notes", { ...path, body }));
  const back = useJobChange<number>(job.id, (note_id) =>
    client.DELETE("/api/jobs/{job_id}/fit/notes/{note_id}", { params: { path: { job_id: job.id, note_id } } }),
  );
  const notes = state.notes.filter((note) => note.step === step);
  const told = state.last_time?.told[step] ?? [];
  const photos = state.last_time?.photos[step] ?? [];
  const note = (more: Partial<NoteIn>) =>
    add.mutateAsync({ step, text: "", place: "", was_so: null, consent_needed: false, photo_id: null, ...more });
  const shoot = async (file: File) => {
    setSending(true);
    setFailed(null);
    try {
      const run = job.runs.find((one) => one.stage === "bench") ?? (await openRun(job.id, "bench"));
      const photo = (await sendPhoto(run.id, file, newKey())) as { id: number };
      await note({ photo_id: photo.id });
    } catch (error) {
      setFailed(error);
    } finally {
      setSending(false);
      void queries.invalidateQueries({ queryKey: ["job", job.id] });
    }
  };
  return (
    <Box sx={{ mt: 1 }}>
      {(told.length > 0 || photos.length > 0) && (
        <Box>
          <Typography variant="body2">
            <b>Last time on this device:</b> {told.join(", ")}
            {told.length ? "." : ""}
          </Typography>
          <Thumbs ids={photos} words="Photo of the last job at this step" />
        </Box>
      )}
      <Thumbs ids={notes.flatMap((one) => (one.photo_id === null ? [] : [one.photo_id]))} words="Photo at this step" />
      {notes
        .filter((one) => one.text)
        .map((one) => (
          <Typography key={one.id} variant="body2">
            {one.was_so ? "Found on the way" : "Done by us"}: {one.text}
            {one.place ? ` (${one.place})` : ""}.{one.consent_needed ? " The owner is asked." : ""} {one.by}{" "}
            {!job.closed_at && (
              <Button
                size="small"
                onClick={() => {
                  back.mutate(one.id);
                }}
              >
                Take back
              </Button>
            )}
          </Typography>
        ))}
      {!job.closed_at && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          <OnePhoto
            ref={chooser}
            label="Photo at this step"
            onFile={(file) => {
              void shoot(file);
            }}
          />
          <Button size="small" disabled={sending} onClick={() => chooser.current?.click()}>
            {sending ? "Sending the photo" : "Photo"}
          </Button>
          <FromThePhone job={job} state={state} onTake={(photoId) => note({ photo_id: photoId })} />
          <Button
            size="small"
            aria-expanded={found === true}
            onClick={() => {
              setFound(found === true ? null : true);
            }}
          >
            Found on the way
          </Button>
          <Button
            size="small"
            aria-expanded={found === false}
            onClick={() => {
              setFound(found === false ? null : false);
            }}
          >
            Done by us
          </Button>
        </Box>
      )}
      {found !== null && (
        <Box sx={{ display: "grid", gap: 1, my: 1 }}>
          <TextField
            label={found ? "What was so already" : "What happened"}
            value={text}
            autoFocus
            slotProps={{ htmlInput: { maxLength: 300 } }}
            onChange={(event) => {
              setText(event.target.value);
            }}
          />
          <TextField
            label="Where"
            value={place}
            slotProps={{ htmlInput: { maxLength: 80 } }}
            onChange={(event) => {
              setPlace(event.target.value);
            }}
          />
          <FormControlLabel
            control={
              <Checkbox
                checked={consent}
                onChange={(_, checked) => {
                  setConsent(checked);
                }}
              />
            }
            label="The owner must be asked"
          />
          <Button
            variant="outlined"
            disabled={!text.trim() || add.isPending}
            onClick={() => {
              void note({ text, place, was_so: found, consent_needed: consent }).then(() => {
                setFound(null);
                setText("");
                setPlace("");
                setConsent(false);
              });
            }}
          >
            Note it
          </Button>
        </Box>
      )}
      <ErrorNote error={failed ?? add.error ?? back.error} />
    </Box>
  );
}
