import type { OutsideRequest } from "../../contracts/learning.ts";
import type { LearnResult } from "../../core/learn/events.ts";
import { learnFromReadings } from "../../core/learn/from-readings.ts";
import { parseLearnedCsv } from "../../core/learn/learned-csv.ts";
import { readingSeries, readingsSheet } from "../../core/learn/readings-sheet.ts";
import { timedFlow } from "../../core/learn/stopwatch.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";

export type Outside =
  | { ok: true; results: LearnResult[]; sets: ReturnType<typeof learnFromReadings>["sets"] }
  | { ok: false; problem: string };

const refused = (problem: string): Outside => ({ ok: false, problem });

/** Flows from outside as proposals: a list, a recorder's log, or meter and stopwatch; by the same core that showed the preview. */
export function readOutside(site: SiteFile, asked: OutsideRequest): Outside {
  switch (asked.how) {
    case "list": {
      const read = parseLearnedCsv(site, asked.text, asked.unit, asked.columns);
      return read.ok ? { ok: true, results: read.list.results, sets: [] } : refused(read.problem);
    }
    case "readings": {
      const opened = readingsSheet(asked.text);
      if (!opened.ok) return refused(opened.problem);
      const made = readingSeries(site, opened.sheet, {
        columns: asked.columns,
        unit: asked.unit,
        date: asked.date,
        ...(asked.litresPerPulse ? { litresPerPulse: asked.litresPerPulse } : {}),
      });
      return made.ok
        ? { ok: true, ...learnFromReadings(site, made.series, asked.litresPerPulse ?? null) }
        : refused(made.problem);
    }
    case "stopwatch": {
      if (!site.stations.some((s) => s.id === asked.stationId))
        return refused("There is no such station on this site.");
      const flow = timedFlow(asked.readings);
      return flow
        ? {
            ok: true,
            results: [{ stationId: asked.stationId, verdict: "accepted", ...flow, secondsToSteady: null }],
            sets: [],
          }
        : refused("Give the litres and the seconds of one reading at least, both over 0.");
    }
  }
}
