// The stations' screens. Titles, order and stages come from the core's table; a station without a screen does not compile.

import { lazy, type ComponentType } from "react";
import { STATIONS } from "../../pane/vocabulary.gen";
import type { Job, Run, StationId } from "../api/client";
import { Causes } from "../isolate/Causes";
import type { Guide } from "../first/guide";
import { Fit } from "../fit/Fit";
import { FitDrawing } from "../fit/FitDrawing";
import { HandOver } from "../handover/HandOver";
import { Inspect } from "./Inspect";
import { Intake } from "../intake/Intake";
import { Isolate } from "./Isolate";
import { Prove } from "../prove/Prove";

interface Screen {
  Work: ComponentType<{ job: Job }>;
  /** Shown under the panel map. */
  Below?: ComponentType<{ job: Job }>;
  /** Shown in place of a panel map that is empty, else under it. */
  Drawing?: ComponentType<{ job: Job }>;
  /** What the first job says here. */
  first?: Guide;
}

const Match = lazy(() => import("../match/Match").then((module) => ({ default: module.Match })));
const Grade = lazy(() => import("../grade/Grade").then((module) => ({ default: module.Grade })));
const TradeOff = lazy(() => import("../match/TradeOff").then((module) => ({ default: module.TradeOff })));
const CausesBeside = ({ job }: { job: Job }) => <Causes job={job} beside />;

export const SCREENS: Record<StationId, Screen> = {
  intake: {
    Work: Intake,
    first: {
      what: "What the owner says and what can be seen from outside, before anything is opened.",
      how: "This device was taken in already: read what was written down, then go on.",
    },
  },
  isolate: {
    Work: Isolate,
    Below: CausesBeside,
    first: {
      what: "Where the fault comes from: one check at a time, the one that tells most for its minutes.",
      how: "Answer with the letter beside what the device shows. The likely causes change with each answer; when one stands out, go on.",
    },
  },
  inspect: {
    Work: Inspect,
    first: {
      what: "What is wrong with the picture, measured from photos of test patterns.",
      how: "Press 'Simulated camera: whole set' and wait until the photos are read. Choose a mark on the panel map to see why it is told.",
    },
  },
  match: {
    Work: Match,
    Below: TradeOff,
    first: {
      what: "Which panel fits, and whom to buy it from.",
      how: "Enter the number on the panel's label under 'Panel in the device', then choose an offer that fits.",
    },
  },
  fit: {
    Work: Fit,
    Drawing: FitDrawing,
    first: {
      what: "Open, swap, test before closing, close: no step before what it needs.",
      how: "Each step says what it wants before it can be confirmed. The dry fit wants photos of the new panel: shoot them with the simulated camera at that step.",
    },
  },
  prove: {
    Work: Prove,
    first: {
      what: "That the closed device is right: picture, functions, and no worse than it came in.",
      how: "Shoot the whole set again, of the closed device this time, and answer the functions.",
    },
  },
  hand_over: {
    Work: HandOver,
    first: {
      what: "The report for the owner, and what it turned out to be, for the shop's own statistics.",
      how: "Read the report, say what the cause was, and hand the device over.",
    },
  },
  grade: { Work: Grade },
};
/** The words of the first job, by station. */
export const GUIDES: Partial<Record<StationId, Guide>> = Object.fromEntries(
  Object.entries(SCREENS).flatMap(([id, screen]) => (screen.first ? [[id, screen.first]] : [])),
);
export const STATION_ORDER = Object.keys(STATIONS) as StationId[];
export const stageOf = (station: StationId): Run["stage"] => STATIONS[station].stage;
