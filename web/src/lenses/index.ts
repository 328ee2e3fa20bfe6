import type { Lens } from "../question/model/lens";
import { awards } from "./awards";
import { bias } from "./bias";
import { chances } from "./chances";
import { growth } from "./growth";
import { items } from "./items";
import { levels } from "./levels";
import { makeUp } from "./make_up";
import { movement } from "./movement";
import { overTime } from "./over_time";
import { pace } from "./pace";
import { spans } from "./spans";
import { spread } from "./spread";
import { standing } from "./standing";
import { startToNow } from "./start_to_now";
import { sure } from "./sure";
import { table } from "./table";
import { trial } from "./trial";

/** The lenses, in the order of the bar and of the keys 1 to 7. */
export const LENSES: readonly Lens[] = [spans, levels, spread, startToNow, overTime, table, sure];

/** Those of Progress, where what was is held against what is. */
export const PROGRESS_LENSES: readonly Lens[] = [
	movement,
	growth,
	standing,
	pace,
	chances,
	trial,
	spans,
	startToNow,
	overTime,
	table,
];

/** Those of Tests, where a test is looked into. */
export const TEST_LENSES: readonly Lens[] = [items, bias, spread];

/** Those of Awards: who stands where, and how it was in other years. */
export const AWARD_LENSES: readonly Lens[] = [awards, overTime];

/** Lenses that something else leads to. */
export const OTHER_LENSES: readonly Lens[] = [makeUp];
