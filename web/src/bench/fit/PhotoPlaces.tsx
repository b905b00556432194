// A photo of the opened device with the screws that were marked on it: two look-alike holes are told apart where they really are.

import { Box } from "@mui/material";
import { useState } from "react";
import type { FitState } from "../api/client";
import { Screws } from "./FitMarks";
import type { Spot } from "./placing";
import { TapSurface } from "./TapSurface";

const SHOWN_W = 640; // about how wide it stands beside the steps

export function PhotoPlaces({
  photoId,
  groups,
  drawn,
  placing,
  now,
  onTap,
}: {
  photoId: number;
  groups: FitState["fasteners"];
  drawn: Readonly<Record<string, Spot[]>>;
  placing: string;
  now: readonly string[];
  onTap: (x: number, y: number, aspect: number) => void;
}) {
  const [size, setSize] = useState<{ w: number; h: number } | null>(null);
  const address = `/api/photos/${photoId}/image?size=view`;
  const { w, h } = size ?? { w: 1200, h: 900 };
  const box = { x: 0, y: 0, width: w, height: h };
  return (
    <Box sx={{ color: "#fff", "--drawing-ground": "#000", "& g": { filter: "drop-shadow(0 0 3px #000)" } }}>
      {!size && (
        <img
          src={address}
          alt=""
          style={{ display: "none" }}
          onLoad={(event) => {
            setSize({ w: event.currentTarget.naturalWidth, h: event.currentTarget.naturalHeight });
          }}
        />
      )}
      <TapSurface
        wide={w}
        high={h}
        box={box}
        label="Photo of the opened device with its screws"
        tapping={Boolean(placing) && size !== null}
        onTap={(x, y) => {
          onTap(x, y, h / w);
        }}
      >
        <image href={address} width={w} height={h} />
        <Screws device={box} groups={groups} now={placing ? [placing] : now} px={w / SHOWN_W} drawn={drawn} />
      </TapSurface>
    </Box>
  );
}
