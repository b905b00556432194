// The one form of a device that comes in: filled in when the job is opened, and mended in the same place later.

import { Box, MenuItem, TextField } from "@mui/material";
import { START_CONSENTS } from "../../pane/vocabulary.gen";
import { DEVICE_WORDS } from "../words";
import { useVocabulary } from "../api/hooks";

export type FieldName =
  | "title"
  | "owner"
  | "complaint"
  | "visible_damage"
  | "accessories"
  | "start_consent"
  | "serial_printed"
  | "serial_system"
  | "device_type"
  | "panel_width"
  | "panel_height"
  | "diagonal_in"
  | "profile";
export interface FieldProps {
  value: string;
  disabled?: boolean;
  error?: boolean;
  helperText?: string;
  onChange: (event: { target: { value: string } }) => void;
  onBlur?: () => void;
  onKeyDown?: (event: { key: string }) => void;
}
const WIDTHS = [1280, 1366, 1600, 1920, 2560, 720, 1080];
const HEIGHTS = [800, 768, 900, 1080, 1440, 1600, 1280, 2400];

/** `of` gives each field's value and what to do with a new one; `reported` stands under the complaint, `register` under the title. */
export function DeviceFields({
  of,
  fresh = false,
  reported,
  register,
}: {
  of: (name: FieldName) => FieldProps;
  fresh?: boolean;
  reported?: React.ReactNode;
  register?: React.ReactNode;
}) {
  const vocabulary = useVocabulary();
  const device = of("device_type");
  const profile = of("profile");
  const plainSerial = (text: string) => text.toUpperCase().replace(/[^A-Z0-9]/g, "");
  const [printed, inSystem] = [plainSerial(of("serial_printed").value), plainSerial(of("serial_system").value)];
  const serialsDiffer = printed !== "" && inSystem !== "" && printed !== inSystem;
  const limited = (most: number) => ({ htmlInput: { maxLength: most } });
  return (
    <>
      <TextField
        label="Device"
        required={fresh}
        autoFocus={fresh}
        {...of("title")}
        helperText={of("title").helperText ?? "What it is and where it stands"}
        slotProps={limited(120)}
      />
      {register}
      <TextField label="Owner" {...of("owner")} slotProps={limited(120)} />
      <TextField
        label="Complaint, in the owner's words"
        multiline
        minRows={2}
        {...of("complaint")}
        slotProps={limited(2000)}
      />
      {reported}
      <TextField
        label="Visible damage, signs of earlier repair"
        multiline
        {...of("visible_damage")}
        slotProps={limited(2000)}
      />
      <TextField label="Accessories that stay with the owner" {...of("accessories")} slotProps={limited(300)} />
      <TextField
        select
        label="May it be started?"
        {...of("start_consent")}
        helperText={of("start_consent").helperText ?? "Ask the owner; tests before its system starts need no account."}
      >
        <MenuItem value="">Not asked yet</MenuItem>
        {Object.entries(START_CONSENTS).map(([id, one]) => (
          <MenuItem key={id} value={id}>
            {one.title}
          </MenuItem>
        ))}
      </TextField>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1.5 }}>
        <TextField label="Serial number printed" {...of("serial_printed")} slotProps={limited(60)} />
        <TextField
          label="Serial number in the system"
          {...of("serial_system")}
          {...(serialsDiffer && {
            error: true,
            helperText: "It differs from the printed one: a part of another device is in it, or one was read wrong.",
          })}
          slotProps={limited(60)}
        />
      </Box>
      <TextField select label="Kind of device" {...device}>
        {(vocabulary.data?.devices ?? [device.value]).map((id) => (
          <MenuItem key={id} value={id}>
            {DEVICE_WORDS[id] ?? id}
          </MenuItem>
        ))}
      </TextField>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1.5 }}>
        <TextField
          label="Panel width (px)"
          inputMode="numeric"
          {...of("panel_width")}
          slotProps={{ htmlInput: { list: "widths" } }}
        />
        <TextField
          label="Height (px)"
          inputMode="numeric"
          {...of("panel_height")}
          slotProps={{ htmlInput: { list: "heights" } }}
        />
        <TextField label="Diagonal (in)" inputMode="decimal" {...of("diagonal_in")} />
        <datalist id="widths">
          {WIDTHS.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        <datalist id="heights">
          {HEIGHTS.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </Box>
      <TextField select label="Acceptance profile" {...profile}>
        {(vocabulary.data?.profiles ?? [{ id: profile.value, title: profile.value }]).map((one) => (
          <MenuItem key={one.id} value={one.id}>
            {one.title}
          </MenuItem>
        ))}
      </TextField>
    </>
  );
}
