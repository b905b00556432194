// What the photos of an earlier look show where faults were found later: why one is called new, known or not to be told.

import { Box, Typography } from "@mui/material";
import type { LookedBack } from "../api/client";
import { wordOf } from "../../pane/marks";

const ANSWERS = { no: "not there then", yes: "there then already", open: "cannot be told" } as const;
const NO_PHOTO = 99; // what the core says where no photo shows a place

export const shareWords = ({ share, sigma }: Pick<LookedBack, "share" | "sigma">): string => {
  if (sigma >= NO_PHOTO) return "no photo of then shows this place";
  const digits = sigma < 0.05 ? 2 : 1;
  return `${Math.max(0, share).toFixed(digits)} ± ${Math.max(sigma, 0.01).toFixed(digits)} of a full fault`;
};

export function LookedBackList({ places, then }: { places: readonly LookedBack[]; then: string }) {
  if (places.length === 0) return null;
  return (
    <Box component="details" sx={{ mt: 0.5 }}>
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" }}>
        Looked up in the photos of {then}: {places.filter((one) => one.was_there === "no").length} of {places.length}{" "}
        not there then
      </Box>
      <Box component="ul" sx={{ pl: 2.5, my: 0 }}>
        {places.map((one) => (
          <li key={`${one.kind}.${one.channel ?? ""}.${one.x}.${one.y}`}>
            <Typography variant="body2">
              {wordOf(one.kind)}
              {one.channel ? `, ${one.channel}` : ""} at {Math.round(one.x)}, {Math.round(one.y)}: {shareWords(one)},{" "}
              <b>{ANSWERS[one.was_there]}</b>
            </Typography>
          </li>
        ))}
      </Box>
    </Box>
  );
}
