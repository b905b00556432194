// What the keys do and what the marks mean: on '?', over whatever is open.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from "@mui/material";
import { useState } from "react";
import { ALL_KINDS, factsOf } from "../../pane/marks";
import { MarkSymbol } from "../parts/FindingList";
import { Key } from "../parts/notes";
import { capital } from "../words";
import { KEY_TABLE } from "./table";
import { useKeys } from "./useKeys";

const TITLES = [
  ["Pixels", ["pixel", "cluster"]],
  ["Lines and areas", ["line", "area"]],
  ["The whole picture", ["whole"]],
  ["Not of the panel", ["glass", "camera"]],
] as const;

/** Every mark of the panel map with its name; dark is filled, bright is outlined, what is not of the panel is crossed. */
export function MarkLegend() {
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 1.5 }}>
      {TITLES.map(([title, families]) => (
        <Box key={title}>
          <Typography variant="h3" sx={{ mb: 0.5 }}>
            {title}
          </Typography>
          {ALL_KINDS.filter((kind) => (families as readonly string[]).includes(factsOf(kind).family)).map((kind) => (
            <Box key={kind} sx={{ display: "flex", gap: 1, alignItems: "center", mb: 0.5 }}>
              <MarkSymbol kind={kind} />
              <Typography variant="body2">{capital(factsOf(kind).title)}</Typography>
            </Box>
          ))}
        </Box>
      ))}
    </Box>
  );
}

export function KeyHelp() {
  const [open, setOpen] = useState(false);
  useKeys({
    "?": () => {
      setOpen(true);
    },
  });
  const close = () => {
    setOpen(false);
  };
  return (
    <>
      <Button
        color="inherit"
        aria-label="Keys and marks"
        sx={{ minWidth: 44 }}
        onClick={() => {
          setOpen(true);
        }}
      >
        ?
      </Button>
      <Dialog open={open} onClose={close} maxWidth="md" fullWidth>
        <DialogTitle>Keys and marks</DialogTitle>
        <DialogContent tabIndex={0}>
          <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", md: "1fr 1fr" }, gap: 3 }}>
            <Box>
              {KEY_TABLE.map(([title, lines]) => (
                <Box key={title} sx={{ mb: 1.5 }}>
                  <Typography variant="h3">{title}</Typography>
                  {lines.map((line) => (
                    <Box key={line.does} sx={{ display: "flex", gap: 1, alignItems: "baseline", mt: 0.5 }}>
                      <Box sx={{ flex: "none", minWidth: 84, display: "flex", flexWrap: "wrap", gap: 0.5 }}>
                        {line.keys.map((key) => (
                          <Key key={key}>{key}</Key>
                        ))}
                      </Box>
                      <Typography variant="body2">{line.does}</Typography>
                    </Box>
                  ))}
                </Box>
              ))}
            </Box>
            <MarkLegend />
          </Box>
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Close</Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
