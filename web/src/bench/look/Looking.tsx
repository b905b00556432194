// The view itself: a photo laid over the panel, looked at down to the pixel, alone or against another one: another pattern, another stage.

import { Box, Button, Slider, Typography } from "@mui/material";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { wordOf } from "../../pane/marks";
import type { Finding, Job } from "../api/client";
import { useKeys } from "../keys/useKeys";
import { Key } from "../parts/notes";
import { capital } from "../words";
import { alike, counterpart, type LookedAt } from "./choices";
import { LookChoices } from "./LookChoices";
import { DifferenceLegend, Making } from "./LookNotes";
import { PhotoCanvas } from "./PhotoCanvas";
import { useAddress, useViewInAddress } from "./useAddress";
import { useRectified } from "./useRectified";
import {
  distanceWords,
  fitted,
  fromText,
  held,
  pitchOf,
  zoomed,
  type Box as Size,
  type Place,
  type View,
} from "./view";

/** A finding that is walked to is shown at least so large, in CSS px a panel pixel. */
const WALKED_ZOOM = 10;
/** The bar above every page. */
const SHELL_PX = 48;
const NO_ENDS: readonly Place[] = [];

const findingWords = (one: Finding): string =>
  `${capital(wordOf(one.kind))}${one.channel ? `, ${one.channel}` : ""} at ${Math.round(one.x)}, ${Math.round(one.y)}`;

/** `all` are the job's own photos, `against` these and what else they can be held against. */
export function Looking({
  job,
  all,
  against,
  main,
}: {
  job: Job;
  all: LookedAt[];
  against: LookedAt[];
  main: LookedAt;
}) {
  const go = useNavigate();
  const address = useAddress(against, main);
  const { pictured, other, how, change } = address;
  const panel = useMemo<Size>(() => ({ width: main.run.screen.width, height: main.run.screen.height }), [main]);
  const own = panel.width === job.panel_width && panel.height === job.panel_height && main.run.stage !== "external";
  const pitchMm = own ? pitchOf(panel, job.diagonal_in) : null;
  const findings = useMemo<readonly Finding[]>(() => main.run.result?.findings ?? [], [main]);
  const [window, setWindow] = useState<Size | null>(null);
  const [moved, setMoved] = useState<View | null>(() => fromText(address.at));
  const [marks, setMarks] = useState(true);
  const [ruling, setRuling] = useState(false);
  const [ruler, setRuler] = useState<readonly Place[]>(NO_ENDS);
  const [chosen, setChosen] = useState<number | null>(null);
  const [place, setPlace] = useState<Place | null>(null);
  const [split, setSplit] = useState(0.5);
  const first = useRectified(main.photo.id, pictured);
  const second = useRectified(other?.photo.id ?? null, pictured);
  const view = window ? (moved ? held(moved, panel, window) : fitted(panel, window)) : null;
  const selected = chosen === null ? null : (findings[chosen] ?? null);

  useViewInAddress(address, moved);

  const zoom = (by: number) => () => {
    if (view && window)
      setMoved(held(zoomed(view, by, { x: window.width / 2, y: window.height / 2 }, window), panel, window));
  };
  const pan = (x: number, y: number) => () => {
    if (view && window)
      setMoved(
        held(
          { ...view, x: view.x + (x * window.width) / view.zoom, y: view.y + (y * window.height) / view.zoom },
          panel,
          window,
        ),
      );
  };
  const fit = () => {
    setMoved(null);
  };
  const walk = (by: number) => () => {
    if (!findings.length || !view) return;
    const next =
      chosen === null ? (by > 0 ? 0 : findings.length - 1) : (chosen + by + findings.length) % findings.length;
    const one = findings[next];
    if (!one) return;
    setChosen(next);
    const room = window ? Math.min(window.width / (one.w * 1.5), window.height / (one.h * 1.5)) : WALKED_ZOOM;
    setMoved({ x: one.x, y: one.y, zoom: Math.min(room, Math.max(view.zoom, WALKED_ZOOM)) });
  };
  const toggleRuler = () => {
    setRuling(!ruling);
    setRuler(NO_ENDS);
  };
  /** By keyboard: each press sets an end in the middle of the window. */
  const dropEnd = () => {
    if (!view) return;
    setRuler((now) => (now.length === 1 ? [...now, { x: view.x, y: view.y }] : [{ x: view.x, y: view.y }]));
  };
  const toggleView = () => {
    change({ view: pictured === "photo" ? "difference" : null });
  };
  const toPhoto = (photoId: number) => {
    void go({ pathname: `/jobs/${job.id}/photos/${photoId}`, search: address.text }, { replace: true });
  };
  const step = (by: number) => () => {
    const mine = all.filter((one) => one.run.id === main.run.id);
    const to = mine[(mine.indexOf(main) + by + mine.length) % mine.length];
    if (to) toPhoto(to.photo.id);
  };
  const compare = () => {
    change({
      with: other
        ? null
        : String((counterpart(against, main) ?? against.find((one) => alike(one, main)))?.photo.id ?? ""),
    });
  };
  useKeys({
    "+": zoom(1.5),
    "=": zoom(1.5),
    "-": zoom(1 / 1.5),
    "0": fit,
    ArrowLeft: pan(-0.2, 0),
    ArrowRight: pan(0.2, 0),
    ArrowUp: pan(0, -0.2),
    ArrowDown: pan(0, 0.2),
    PageDown: step(1),
    PageUp: step(-1),
    " ": step(1),
    n: walk(1),
    p: walk(-1),
    m: () => {
      setMarks(!marks);
    },
    d: toggleView,
    r: dropEnd,
    c: compare,
    Escape: () => {
      setRuler(NO_ENDS);
      setRuling(false);
    },
  });

  const whole = useMemo(
    () => ({
      first: first.layer ? [{ layer: first.layer, from: 0, to: 1 }] : [],
      second: second.layer ? [{ layer: second.layer, from: 0, to: 1 }] : [],
      both: [
        ...(first.layer ? [{ layer: first.layer, from: 0, to: second.layer ? split : 1 }] : []),
        ...(second.layer ? [{ layer: second.layer, from: split, to: 1 }] : []),
      ],
    }),
    [first.layer, second.layer, split],
  );
  const shared = {
    panel,
    marks,
    selected,
    pitchMm,
    view,
    onView: setMoved,
    onWindow: setWindow,
    ruling,
    ruler,
    onRuler: setRuler,
    onSelect: (one: Finding | null) => {
      const found = one ? findings.indexOf(one) : -1;
      setChosen(found < 0 ? null : found);
    },
    onPlace: setPlace,
  };
  // of a finding that another pattern shows and this one does not
  const showing =
    selected && !selected.patterns.includes(main.photo.report?.pattern ?? "")
      ? all.find((one) => one.run.id === main.run.id && selected.patterns.includes(one.photo.report?.pattern ?? ""))
      : undefined;
  const swiped = other !== null && how === "swipe";
  const px = place && place.x > -0.5 && place.y > -0.5 && place.x < panel.width - 0.5 && place.y < panel.height - 0.5;
  return (
    <Box
      sx={{
        display: "flex",
        flexDirection: "column",
        height: { md: `calc(100vh - ${SHELL_PX}px)` },
        minWidth: 0,
        p: { xs: 1, md: 1.5 },
        gap: 1,
      }}
    >
      <LookChoices job={job} all={all} against={against} main={main} address={address} onPhoto={toPhoto} />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <Button size="small" variant="outlined" onClick={zoom(1.5)} aria-label="Larger">
          +
        </Button>
        <Button size="small" variant="outlined" onClick={zoom(1 / 1.5)} aria-label="Smaller">
          −
        </Button>
        <Button size="small" variant="outlined" onClick={fit}>
          Whole panel
        </Button>
        <Button
          size="small"
          variant={marks ? "contained" : "outlined"}
          aria-pressed={marks}
          onClick={() => {
            setMarks(!marks);
          }}
        >
          Marks
        </Button>
        <Button size="small" variant={ruling ? "contained" : "outlined"} aria-pressed={ruling} onClick={toggleRuler}>
          Ruler
        </Button>
        <Button size="small" disabled={!findings.length} onClick={walk(-1)}>
          Previous finding
        </Button>
        <Button size="small" disabled={!findings.length} onClick={walk(1)}>
          Next finding
        </Button>
        <Typography role="status" variant="body2" color="textSecondary" sx={{ fontVariantNumeric: "tabular-nums" }}>
          {ruler[0] && ruler[1] && view
            ? `Ruler: ${distanceWords(ruler[0], ruler[1], view.zoom, pitchMm)}`
            : selected
              ? findingWords(selected)
              : px
                ? `Column ${Math.round(place.x)}, row ${Math.round(place.y)}`
                : ruling
                  ? "Drag from one place to another; near a mark it catches."
                  : ""}
        </Typography>
        {showing && (
          <Button
            size="small"
            onClick={() => {
              toPhoto(showing.photo.id);
            }}
          >
            Show it in {showing.photo.report?.pattern}
          </Button>
        )}
      </Box>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: other && !swiped ? { xs: "1fr", sm: "1fr 1fr" } : "1fr",
          gap: 1,
          flex: 1,
          minHeight: { xs: "56vh", md: 0 },
        }}
      >
        <Box sx={{ position: "relative", minWidth: 0, minHeight: 260 }}>
          <PhotoCanvas
            {...shared}
            findings={findings}
            layers={swiped ? whole.both : whole.first}
            label={`${main.name}, laid over the panel`}
          />
          <Making
            looked={swiped && first.layer ? second : first}
            name={swiped && first.layer ? other.name : main.name}
          />
        </Box>
        {other && !swiped && (
          <Box sx={{ position: "relative", minWidth: 0, minHeight: 260 }}>
            <PhotoCanvas
              {...shared}
              onWindow={noWindow}
              findings={other.run.result?.findings ?? []}
              layers={whole.second}
              label={`${other.name}, laid over the panel`}
            />
            <Making looked={second} name={other.name} />
          </Box>
        )}
      </Box>
      {swiped && (
        <Box sx={{ display: "grid", gridTemplateColumns: "auto 1fr auto", gap: 2, alignItems: "center" }}>
          <Typography variant="body2">{main.name}</Typography>
          <Slider
            size="small"
            aria-label="Where one photo ends and the other begins"
            min={0}
            max={1}
            step={0.01}
            value={split}
            onChange={(_, value) => {
              setSplit(value);
            }}
          />
          <Typography variant="body2">{other.name}</Typography>
        </Box>
      )}
      {pictured === "difference" && <DifferenceLegend />}
      <Typography variant="body2" color="textSecondary">
        <Key>+</Key> <Key>−</Key> size, <Key>0</Key> whole panel, arrows move, <Key>N</Key> <Key>P</Key> findings,{" "}
        <Key>D</Key> difference, <Key>C</Key> hold against, <Key>M</Key> marks, <Key>R</Key> an end of the ruler in the
        middle.
        {pitchMm === null ? " Lengths are in pixels: the panel's diagonal is not known." : ""}
      </Typography>
    </Box>
  );
}
const noWindow = () => undefined;
