// One acceptance profile, read or written: classes, limits, rules on faults, and what the touch surface must hold.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, got, type OfferedProfile, type Profile } from "../api/client";
import { useSingle } from "../api/hooks";
import { DotRules } from "./DotRules";
import { isBad, ownOf, textsOf, TouchLimits, type LimitTexts } from "./TouchLimits";
import { History } from "../parts/History";
import { ErrorNote } from "../parts/notes";

const CLASSES = ["class-0", "class-I", "class-II", "class-III", "class-IV"];
const LIMITS: [
  keyof Profile &
    ("uniformity_min" | "delta_uv_max" | "gamma_off_max" | "grey_delta_uv_max" | "mura_semu_max" | "bleed_max"),
  string,
  string,
][] = [
  ["uniformity_min", "Uniformity, at least", "Darkest to brightest point, 0 to 1"],
  ["delta_uv_max", "Colour, at most", "Largest u'v' distance of nine points, for example 0.010"],
  ["gamma_off_max", "Gamma off 2.2, at most", "For example 0.2; needs the grey ladder"],
  ["grey_delta_uv_max", "Greys off white, at most", "Largest u'v' distance, for example 0.006; needs the grey ladder"],
  ["mura_semu_max", "Mura, at most", "In SEMU; needs the panel's diagonal"],
  ["bleed_max", "Bleed on black, at most", "Share of white, for example 0.01"],
];
/** What the fields of a profile are called where its history tells them. */
const NAMES: Readonly<Record<string, string>> = {
  ...Object.fromEntries(LIMITS.map(([name, label]) => [name, label])),
  pixels: "Pixel-fault class",
  demanded_share: "Must be proven, share",
  uniformity_points: "Points of the uniformity",
  middle_share: "The middle, share each way",
  subpixels: "Single subpixels are judged",
  rules: "Rules on faults",
  jitter_rest_mm: "Jitter at rest, mm",
  jitter_moving_mm: "Jitter in motion, mm",
  straightness_mm: "Off a straight line, mm",
  rate_hz: "Reports a second",
  gap_ms: "Longest usual gap, ms",
  offset_mm: "Offset from the finger, mm",
  scale_off: "Scale",
  separation_mm: "Fingers told apart, mm",
};
const POINTS: [number, string][] = [
  [5, "5: the middle and the corners"],
  [9, "9: three by three"],
  [13, "13: three by three and four between"],
];
const MIDDLES: [number, string][] = [
  [0.5, "a quarter of the area: half each way"],
  [1 / 3, "a ninth: a third each way"],
];
export const EMPTY: Profile = {
  id: "",
  title: "",
  pixels: "class-II",
  subpixels: true,
  demanded_share: 0.98,
  middle_share: 0.5,
  rules: [],
  uniformity_min: null,
  uniformity_points: 9,
  delta_uv_max: null,
  gamma_off_max: null,
  grey_delta_uv_max: null,
  mura_semu_max: null,
  bleed_max: null,
};
const asNumber = (text: string): number | null => (text.trim() === "" ? null : Number(text.replace(",", ".")));

export function ProfileEditor({
  start,
  version,
  own,
  mayWrite,
}: {
  start: Profile;
  version: number;
  own: boolean;
  mayWrite: boolean;
}) {
  const queries = useQueryClient();
  const go = useNavigate();
  const [draft, setDraft] = useState<Profile>(start);
  const [texts, setTexts] = useState<Record<string, string>>(
    () =>
      Object.fromEntries([
        ...LIMITS.map(([name]) => [name, start[name]?.toString() ?? ""]),
        ["demanded", String(100 * (start.demanded_share ?? 0.98))],
      ]) as Record<string, string>,
  );
  const [touch, setTouch] = useState<LimitTexts>(() => textsOf(start.touch));
  const done = () =>
    queries
      .invalidateQueries({ queryKey: ["profiles"] })
      .then(() => queries.invalidateQueries({ queryKey: ["vocabulary"] }));
  const save = useSingle(
    useMutation<OfferedProfile, Error, Profile>({
      mutationFn: (profile: Profile) =>
        got<OfferedProfile>(
          client.PUT("/api/profiles/{profile_id}", {
            params: { path: { profile_id: profile.id } },
            body: { profile, version: own ? version : 0 },
          }),
        ),
      onSuccess: (stored) => {
        void done();
        void go(`/settings/acceptance/${stored.profile.id}`);
      },
    }),
  );
  const retire = useMutation({
    mutationFn: () => got(client.DELETE("/api/profiles/{profile_id}", { params: { path: { profile_id: draft.id } } })),
    onSuccess: () => {
      void done();
      void go("/settings/acceptance");
    },
  });
  const limits = Object.fromEntries(LIMITS.map(([name]) => [name, asNumber(texts[name] ?? "")])) as Pick<
    Profile,
    (typeof LIMITS)[number][0]
  >;
  const bad =
    [...Object.values(limits), asNumber(texts.demanded ?? "")].some((value) => value !== null && Number.isNaN(value)) ||
    Object.values(touch).some(isBad);
  const ready = draft.id.trim() !== "" && draft.title.trim() !== "" && !bad;
  return (
    <Box
      component="form"
      aria-label="Profile"
      sx={{ display: "grid", gap: 1.75, maxWidth: 620 }}
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        if (!ready) return;
        const demanded_share = (asNumber(texts.demanded ?? "") ?? 98) / 100;
        save.mutate({ ...draft, ...limits, demanded_share, touch: ownOf(touch) });
      }}
    >
      {!mayWrite && <Typography color="textSecondary">A lead writes profiles; you can read them.</Typography>}
      {mayWrite && !own && start.id !== "" && (
        <Typography color="textSecondary">
          This one ships with Clear Lens and stays as it is. Save it under a name of your own to change it.
        </Typography>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 2fr" }, gap: 1.5 }}>
        <TextField
          label="Name (letters, digits, -)"
          value={draft.id}
          onChange={(event) => {
            setDraft({ ...draft, id: event.target.value });
          }}
          slotProps={{
            input: { readOnly: own || !mayWrite },
            htmlInput: { maxLength: 40, pattern: "[a-zA-Z0-9][a-zA-Z0-9\\-]*" },
          }}
        />
        <TextField
          label="Title"
          value={draft.title}
          onChange={(event) => {
            setDraft({ ...draft, title: event.target.value });
          }}
          slotProps={{ input: { readOnly: !mayWrite }, htmlInput: { maxLength: 80 } }}
        />
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "2fr 1fr" }, gap: 1.5 }}>
        <TextField
          select
          label="Pixel-fault class"
          value={draft.pixels ?? ""}
          slotProps={{ select: { readOnly: !mayWrite } }}
          helperText="ISO 9241-307, per million pixels (from memory)"
          onChange={(event) => {
            setDraft({ ...draft, pixels: event.target.value || null });
          }}
        >
          <MenuItem value="">none</MenuItem>
          {CLASSES.map((id) => (
            <MenuItem key={id} value={id}>
              {id}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          label="Must be proven (%)"
          value={texts.demanded}
          slotProps={{ input: { readOnly: !mayWrite } }}
          inputMode="decimal"
          onChange={(event) => {
            setTexts({ ...texts, demanded: event.target.value });
          }}
        />
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 1.5 }}>
        {LIMITS.map(([name, label, help]) => (
          <TextField
            key={name}
            label={label}
            helperText={help}
            value={texts[name] ?? ""}
            slotProps={{ input: { readOnly: !mayWrite } }}
            inputMode="decimal"
            error={Number.isNaN(limits[name] ?? 0)}
            onChange={(event) => {
              setTexts({ ...texts, [name]: event.target.value });
            }}
          />
        ))}
      </Box>
      <TextField
        select
        label="Points of the uniformity"
        value={draft.uniformity_points ?? 9}
        slotProps={{ select: { readOnly: !mayWrite } }}
        helperText="As the data sheet or the supplier counts them"
        onChange={(event) => {
          setDraft({ ...draft, uniformity_points: Number(event.target.value) as 5 | 9 | 13 });
        }}
      >
        {POINTS.map(([count, words]) => (
          <MenuItem key={count} value={count}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        select
        label="The middle is"
        value={MIDDLES.find(([share]) => Math.abs(share - draft.middle_share) < 0.01)?.[0] ?? draft.middle_share}
        slotProps={{ select: { readOnly: !mayWrite } }}
        helperText="Where a dot rule speaks of the middle"
        onChange={(event) => {
          setDraft({ ...draft, middle_share: Number(event.target.value) });
        }}
      >
        {[
          ...MIDDLES,
          ...(MIDDLES.some(([share]) => Math.abs(share - draft.middle_share) < 0.01)
            ? []
            : [[draft.middle_share, `${Math.round(100 * draft.middle_share)} % each way`] as [number, string]]),
        ].map(([share, words]) => (
          <MenuItem key={share} value={share}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      <DotRules
        rules={draft.rules ?? []}
        readOnly={!mayWrite}
        onChange={(rules) => {
          setDraft({ ...draft, rules });
        }}
      />
      <TouchLimits texts={touch} readOnly={!mayWrite} onChange={setTouch} />
      <ErrorNote error={save.error ?? retire.error} />
      {mayWrite && (
        <Box sx={{ display: "flex", gap: 1 }}>
          <Button type="submit" variant="contained" disabled={!ready || save.isPending}>
            {own ? "Save" : "Save as own"}
          </Button>
          {own && (
            <Button
              onClick={() => {
                retire.mutate();
              }}
            >
              Offer it no longer
            </Button>
          )}
        </Box>
      )}
      {own && <History kind="profile" id={start.id} version={version} names={NAMES} />}
      {own && mayWrite && (
        <Typography variant="body2" color="textSecondary">
          Open jobs with this profile are judged anew when it is saved. Closed ones keep their verdict.
        </Typography>
      )}
    </Box>
  );
}
