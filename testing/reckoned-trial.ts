import { randomFrom } from "../core/bench/random.ts";
import { nth } from "../core/checked.ts";
import { localIso } from "../core/dates/wall-time.ts";
import { waterworks } from "../core/network/waterworks.ts";
import type { Finding } from "../core/reckon/findings.ts";
import { readTogether, reckonMornings } from "../core/reckon/reckon.ts";
import { type Stretch, stretchesOf } from "../core/reckon/stretches.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { dates, nightLog, reckonedSite } from "./reckoned-nights.ts";

const FROM = "2026-07-01";
/** L/min of one broken outlet, by what outlets there are. */
const OUTLETS = [8, 12, 15, 45];
const CLOGGED = 0.2;
/** By so much a wrong constant is wrong, one way or the other. */
const WRONG_K = 0.12;

/** `midNight`: an outlet that breaks while its station runs. */
export const TRIED = ["outlet", "midNight", "sensor", "clog", "healthy"] as const;
/** @property before nights with nothing wrong before it begins @property stations of the site; else 10 to 150 */
export type TrialOf = { kind: (typeof TRIED)[number]; seed: number; nights: number; before: number; stations?: number };
export type Tried = {
  seed: number;
  stations: number;
  /** Which share of the smallest set it runs in the change is. */
  share: number;
  wrong: string;
  firstMorning: boolean;
  lastMorning: boolean;
  named: string[];
  /** Whatever was named for certain on any morning and is not so. */
  wrongly: string[];
};
type Wrong = { id: string; faults: (night: number) => unknown[]; share: number };

/** A random site with one thing wrong that no limit sees, on the real noisy bench: what is known on the first morning after it began, and on the last. */
export function tryReckoning({ kind, seed, nights, before, stations: asked }: TrialOf): Tried {
  const random = randomFrom(seed * 7919);
  const drawn = 10 + Math.floor(140 * random() ** 2);
  const stations = asked ?? drawn;
  const { ground, known } = reckonedSite(seed, stations);
  const w = waterworks(known);
  const wrong = wrongWith(kind, ground, nights, stretchesOf(w, nightLog(ground, FROM, [], seed)).stretches, random);
  const logs = dates(FROM, before + nights).map((date, n) =>
    nightLog(ground, date, n < before ? [] : wrong.faults(n - before), 1000 * seed + n),
  );
  const mornings: Finding[][] = [];
  let apart: string[][] = [];
  for (const { reckoning } of reckonMornings(w, readTogether(w, logs))) {
    mornings.push(reckoning.found);
    apart = reckoning.neverApart;
  }
  const group = apart.find((g) => g.includes(wrong.id)) ?? [wrong.id];
  const rightly = (found: readonly Finding[] = []): boolean =>
    found.some((f) => f.certain && f.subjectIds.includes(wrong.id));
  const falsely = mornings.flat().filter((f) => f.certain && !f.subjectIds.some((id) => group.includes(id)));
  return {
    seed,
    stations,
    share: wrong.share,
    wrong: wrong.id,
    firstMorning: rightly(mornings[before]),
    lastMorning: rightly(mornings.at(-1)),
    named: (mornings.at(-1) ?? []).map(shortly),
    wrongly: [...new Map(falsely.map((f) => [`${f.kind} ${f.subjectIds.join("/")}`, shortly(f)])).values()],
  };
}

const shortly = (f: Finding): string =>
  `${f.kind} ${f.subjectIds.join("/")} ${f.changeLpm.toFixed(2)} z ${f.z.toFixed(1)} since ${f.since.slice(0, 10)}${f.certain ? "" : " ?"}`;

function wrongWith(
  kind: TrialOf["kind"],
  ground: SiteFile,
  nights: number,
  calm: readonly Stretch[],
  random: () => number,
): Wrong {
  const place = Math.floor(random() * ground.stations.length);
  const { id } = nth(ground.stations, place);
  const sums = calm.filter((s) => s.set.includes(place)).map((s) => s.meanLpm);
  const smallest = sums.length > 0 ? Math.min(...sums) : Number.POSITIVE_INFINITY;
  const size = nth(OUTLETS, Math.floor(random() * OUTLETS.length));
  const at = "00:00:00";
  switch (kind) {
    case "healthy":
      return { id: "", share: 0, faults: () => [] };
    case "sensor": {
      const sensor = nth(ground.pocs, 0).devices.find((d) => d.kind === "flowSensor")?.id ?? "";
      const by = random() < 0.5 ? 1 + WRONG_K : 1 - WRONG_K;
      return { id: sensor, share: WRONG_K, faults: () => [{ kind: "wrongK", subjectId: sensor, at, size: by }] };
    }
    case "clog": {
      const clogged = (n: number): unknown => ({ kind: "clogged", subjectId: id, at, size: (CLOGGED * n) / nights });
      return { id, share: CLOGGED, faults: (n) => (n === 0 ? [] : [clogged(n)]) };
    }
    case "midNight": {
      const mine = calm.filter((s) => s.set.includes(place));
      const ran = mine[Math.floor(random() * mine.length)];
      const when = ran ? Math.round(ran.from + (ran.to - ran.from) * random()) : 0;
      const clock = localIso(ground.site.timeZone, when).slice(11, 19);
      const broken = (n: number): unknown => ({ kind: "brokenOutlet", subjectId: id, at: n === 0 ? clock : at, size });
      return { id, share: size / smallest, faults: (n) => [broken(n)] };
    }
    case "outlet":
      return { id, share: size / smallest, faults: () => [{ kind: "brokenOutlet", subjectId: id, at, size }] };
  }
}
