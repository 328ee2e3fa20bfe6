import type { Lens } from "../question/model/lens";
import { bias } from "./bias";
import { items } from "./items";
import { levels } from "./levels";
import { makeUp } from "./make_up";
import { overTime } from "./over_time";
import { spans } from "./spans";
import { spread } from "./spread";
import { startToNow } from "./start_to_now";
import { sure } from "./sure";
import { table } from "./table";

/** The lenses, in the order of the bar and of the keys 1 to 7. */
export const LENSES: readonly Lens[] = [spans, levels, spread, startToNow, overTime, table, sure];

/** Those of Tests, where a test is looked into. */
export const TEST_LENSES: readonly Lens[] = [items, bias, spread];

/** Lenses that something else leads to. */
export const OTHER_LENSES: readonly Lens[] = [makeUp];
