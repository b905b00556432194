// The stations' screens. Titles, order and stages come from the core's table; a station without a screen does not compile.

import { lazy, type ComponentType } from "react";
import { STATIONS } from "../../pane/vocabulary.gen";
import type { Job, Run, StationId } from "../api/client";
import { Causes } from "../isolate/Causes";
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
}

const Match = lazy(() => import("../match/Match").then((module) => ({ default: module.Match })));
const Grade = lazy(() => import("../grade/Grade").then((module) => ({ default: module.Grade })));
const TradeOff = lazy(() => import("../match/TradeOff").then((module) => ({ default: module.TradeOff })));
const CausesBeside = ({ job }: { job: Job }) => <Causes job={job} beside />;

export const SCREENS: Record<StationId, Screen> = {
  intake: { Work: Intake },
  isolate: { Work: Isolate, Below: CausesBeside },
  inspect: { Work: Inspect },
  match: { Work: Match, Below: TradeOff },
  fit: { Work: Fit, Drawing: FitDrawing },
  prove: { Work: Prove },
  hand_over: { Work: HandOver },
  grade: { Work: Grade },
};
export const STATION_ORDER = Object.keys(STATIONS) as StationId[];
export const stageOf = (station: StationId): Run["stage"] => STATIONS[station].stage;
