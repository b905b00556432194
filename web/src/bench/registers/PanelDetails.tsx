// What the register knows of a panel: every value with where it came from, its offers, its history.

import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { VALUE_SOURCES } from "../../pane/vocabulary.gen";
import { client, got, type Panel } from "../api/client";
import { SPEC_FIELDS, textOf } from "../match/specFields";
import { usePanels } from "../match/usePanels";
import { dayWords } from "../jobs/days";
import { ErrorNote } from "../parts/notes";
import { History } from "../parts/History";
import { SameAs } from "./SameAs";
import { PanelOffers } from "./PanelOffers";

const sourceWords = (told: Panel["sources"][string]): string =>
  `${VALUE_SOURCES[told.source].title}, ${dayWords(told.on)}`;

/** Where most of its values come from: said once, not beside each of them. */
function mostUsual(panel: Panel): string {
  const counts = new Map<string, number>();
  for (const told of Object.values(panel.sources)) {
    const words = sourceWords(told);
    counts.set(words, (counts.get(words) ?? 0) + 1);
  }
  return [...counts].sort((one, other) => other[1] - one[1])[0]?.[0] ?? "";
}

export function PanelDetails({
  panel,
  onChange,
  onRetire,
}: {
  panel: Panel;
  onChange: () => void;
  onRetire: () => void;
}) {
  const queries = useQueryClient();
  const [words, setWords] = useState("");
  const others = usePanels(words);
  const at = { params: { path: { panel_id: panel.id } } };
  const done = () => {
    void queries.invalidateQueries({ queryKey: ["panels"] });
    void queries.invalidateQueries({ queryKey: ["offers"] });
  };
  const merge = useMutation({
    mutationFn: (other_id: number) => got(client.POST("/api/panels/{panel_id}/merge", { ...at, body: { other_id } })),
    onSettled: done,
  });
  const usual = mostUsual(panel);
  const known = SPEC_FIELDS.filter(({ name }) => textOf(name, panel.spec[name]) !== "");
  return (
    <Box sx={{ p: 2, bgcolor: "background.paper" }}>
      <Box component="dl" sx={{ columnCount: { xs: 1, md: 2, lg: 3 }, columnGap: 3, m: 0 }}>
        {known.map((field) => {
          const text = textOf(field.name, panel.spec[field.name]);
          const source = panel.sources[field.name];
          return (
            <Box
              key={field.name}
              sx={{ display: "grid", gridTemplateColumns: "150px 1fr", gap: 1, breakInside: "avoid", mb: 0.5 }}
            >
              <Typography component="dt" variant="body2" color="textSecondary">
                {field.label.split(",")[0]}
              </Typography>
              <Typography component="dd" variant="body2" sx={{ m: 0 }}>
                {field.choices?.find(([id]) => id === text)?.[1] ?? text}
                {source && sourceWords(source) !== usual && (
                  <Typography component="span" variant="body2" color="textSecondary">
                    {" "}
                    ({sourceWords(source)})
                  </Typography>
                )}
              </Typography>
            </Box>
          );
        })}
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
        {known.length === SPEC_FIELDS.length
          ? "Everything is known."
          : `${SPEC_FIELDS.length - known.length} not known.`}{" "}
        {usual && `Where nothing else is said: ${usual}.`}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mt: 1 }}>
        <Button variant="outlined" onClick={onChange}>
          Change
        </Button>
        <SameAs
          own={panel}
          options={others.data ?? []}
          name={(one) => one.name}
          what="panel"
          goes="its number, offers and jobs come"
          onWords={setWords}
          onMerge={(other) => {
            merge.mutate(other);
          }}
        />
        <Button onClick={onRetire}>Take out of the register</Button>
      </Box>
      <ErrorNote error={merge.error} />
      <PanelOffers panel={panel} />
      <History kind="panel" id={panel.id} version={panel.version} />
    </Box>
  );
}
