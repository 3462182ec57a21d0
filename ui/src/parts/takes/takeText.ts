import type { Run } from "../../api/client";
import { when } from "../format";

/** A take by its title and number. */
export const takeTitle = (run: Run) => `${run.title} · take ${run.id}${run.draft ? " · draft" : ""}`;

/** What tells two takes of one shot apart: length, rate, size, and when it was captured. */
export const takeSettings = (run: Run) => `${run.summary} · ${run.size} · ${when(run.created)}`;
