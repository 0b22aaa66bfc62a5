import type {
  FindingAnswerRequest,
  LogTaken,
  MorningsStatus,
  StationMornings,
  ToldFinding,
} from "../../contracts/mornings.ts";
import { addDays, type EpochS, instantOf, localClock, localDate } from "../../core/dates/wall-time.ts";
import type { NightMarks } from "../../core/learn/basis.ts";
import { nightMarks } from "../../core/reckon/night-marks.ts";
import type { Finding } from "../../core/reckon/findings.ts";
import type { KeptNight } from "../../core/reckon/kept-nights.ts";
import { aloneIds } from "../../core/reckon/probe.ts";
import { WINDOW_NIGHTS } from "../../core/reckon/reckon.ts";
import { hasGrown } from "../../core/reckon/still-open.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { gatewayOf } from "../db/field.ts";
import {
  type AnswerRow,
  answersOf,
  readingsOfNight,
  keepAnswer,
  keepMorning,
  keepNight,
  type KeptMorning,
  markReckoned,
  newestMorning,
  newestNight,
  nightsAfter,
  nightsKept,
  sitesToReckon,
  stationOnMornings,
  type ToReckon,
} from "../db/mornings.ts";
import { revisionAt } from "../db/revisions.ts";
import { lockSite, siteById } from "../db/sites.ts";
import { keepWaterDay } from "../db/water.ts";
import { colleagues } from "../db/users.ts";
import { heavy } from "../heavy/pool.ts";
import { log } from "../log.ts";
import { audited } from "./audited.ts";
import { learnThere, withOrders } from "./orders.ts";
import { takeFromNights } from "./proposals.ts";
import { type LoadedSite, loadSite } from "./sites.ts";

/** A morning of a large site takes a fraction of a second; many that were imported together, longer. */
const BUDGET_S = 120;
/** A chart of a station goes so many mornings back. */
const MORNINGS_SHOWN = 120;
/** So many nights of one log: each is reckoned by itself. */
const MOST_NIGHTS = 62;
/** On each site's own clock a night is looked at when people come to work, and once more when it is over. */
const AT_WORK = "05:30";
const OVER = "12:05";
/** Sites that are looked at in one go. */
const AT_ONCE = 4;

type Of = { organisationId: string; siteId: string };

/** What a site's nights say on the newest morning, with what was answered. */
export async function morningsStatus(user: SignedIn, siteId: string): Promise<MorningsStatus> {
  await loadSite(user, siteId);
  const [night, morning, answers, people, notAlone] = await Promise.all([
    newestNight(siteId),
    newestMorning(siteId),
    answersOf(siteId),
    colleagues(user.organisationId),
    whyNotAlone(siteId),
  ]);
  return {
    night: night?.night ?? null,
    whole: night?.whole ?? false,
    source: night?.source ?? null,
    nights: morning?.reckoning.nights ?? 0,
    workedAt: morning?.workedAt.toISOString() ?? null,
    stretches: morning?.reckoning.stretches ?? 0,
    stations: morning?.reckoning.stations ?? [],
    found: morning ? withAnswers(morning, answers) : [],
    neverApart: morning?.reckoning.neverApart ?? [],
    sets: morning?.reckoning.sets ?? [],
    people: people.map(({ id, name }) => ({ id, name })),
    notAlone,
  };
}

function withAnswers({ reckoning, words }: KeptMorning, answers: readonly AnswerRow[]): ToldFinding[] {
  return reckoning.found.map((f, i): ToldFinding => {
    const a = answers.find((x) => x.findingId === f.id);
    const answer = a && {
      answer: a.answer,
      words: a.words,
      forName: a.forName,
      byName: a.byName,
      at: a.answeredAt.toISOString(),
      grown: hasGrown(f, a),
    };
    return { ...f, words: words[i] ?? { head: "", causes: "", check: "" }, answer: answer ?? null };
  });
}

async function whyNotAlone(siteId: string): Promise<string | null> {
  try {
    await withOrders(siteId);
    return null;
  } catch (error) {
    if (error instanceof AppError) return error.message;
    throw error;
  }
}

/** A station's estimate on each morning, and when its figure was learned or it was repaired. */
export async function stationMornings(user: SignedIn, siteId: string, stationId: string): Promise<StationMornings> {
  const { file } = await loadSite(user, siteId);
  const station = file.stations.find((s) => s.id === stationId);
  if (!station) throw new AppError("notFound", "There is no such station on this site.");
  const mornings = await stationOnMornings(siteId, stationId, MORNINGS_SHOWN);
  return {
    mornings,
    marks: [
      ...(station.learned ? [{ at: station.learned.at, what: "learned" as const }] : []),
      ...(station.repairedAt ? [{ at: station.repairedAt, what: "repaired" as const }] : []),
    ],
  };
}

/** What the newest morning says of the stations' figures; null where no night was read. */
export async function marksOfNights(siteId: string): Promise<NightMarks | null> {
  const morning = await newestMorning(siteId);
  if (!morning) return null;
  const taken = (await answersOf(siteId)).filter((a) => a.answer === "taken").map((a) => a.findingId);
  return nightMarks(morning.reckoning, { night: morning.night, workedAt: morning.workedAt.toISOString() }, taken);
}

/** Takes a recorder's log in: its nights, and what is known on the morning after each of them and of those after. */
export async function takeLog(user: SignedIn, siteId: string, text: string): Promise<LogTaken> {
  const site = await loadSite(user, siteId);
  const read = await heavy(user.organisationId, "nightsOfLog", [site.file, text], { budgetS: BUDGET_S });
  if (!read.ok) throw new AppError("badRequest", read.problem);
  const nights = read.nights.filter((n) => n.stretches.length > 0);
  const [first] = nights;
  if (!first)
    throw new AppError(
      "badRequest",
      "Nothing in it is steady for 20 s after a set opened. A row in five seconds to a minute is needed, with the stations that are open.",
    );
  if (nights.length > MOST_NIGHTS)
    throw new AppError(
      "badRequest",
      `These are ${nights.length} nights. Bring them in parts of ${MOST_NIGHTS} at the most.`,
    );
  const of = { organisationId: user.organisationId, siteId };
  const later = (await nightsAfter(siteId, first.night)).filter((n) => !nights.some((x) => x.night === n));
  const mornings = await worked(of, site, nights, first.night, [...nights.map((n) => n.night), ...later].sort());
  await inTransaction(async () => {
    await lockSite(user.organisationId, siteId);
    for (const n of nights) await keepNight(of, n, "log", true);
    for (const { figures, ...when } of read.water) await keepWaterDay(of, { ...when, source: "log" }, figures);
    for (const m of mornings) await keepMorning(of, site.version, m);
    await audited(user, "broughtLog", `${nights.length} nights, ${site.file.site.name}`);
  });
  return { nights: nights.map((n) => n.night), found: mornings.at(-1)?.reckoning.found.length ?? 0 };
}

/** The mornings from a night on, with nights that are not kept yet. */
async function worked(
  { organisationId, siteId }: Of,
  site: Pick<LoadedSite, "file">,
  fresh: readonly KeptNight[],
  from: string,
  dates: readonly string[],
) {
  const last = dates.at(-1) ?? from;
  const kept = await nightsKept(siteId, last, WINDOW_NIGHTS + dates.length);
  const all = [...kept.filter((k) => !fresh.some((f) => f.night === k.night)), ...fresh].sort((a, b) =>
    a.night.localeCompare(b.night),
  );
  const before: Finding[] = (await newestMorning(siteId, from))?.reckoning.found ?? [];
  return heavy(organisationId, "mornings", [site.file, all, before, from], { budgetS: BUDGET_S });
}

/** What somebody does about a finding; done once, and kept by whom. */
export async function answerFinding(
  user: SignedIn,
  siteId: string,
  request: FindingAnswerRequest,
): Promise<MorningsStatus> {
  const site = await loadSite(user, siteId);
  const morning = await newestMorning(siteId);
  const finding = morning?.reckoning.found.find((f) => f.id === request.findingId);
  if (!morning || !finding)
    throw new AppError("conflict", "The nights do not say that any more. Look at the newest morning.");
  const stationIds = finding.subjectIds.filter((id) => site.file.stations.some((s) => s.id === id));
  const { answer, forUser } = request;
  if (forUser && !(await colleagues(user.organisationId)).some((p) => p.id === forUser))
    throw new AppError("badRequest", "There is no such person here.");
  if (answer === "alone") {
    const alone = aloneIds(finding).filter((id) => site.file.stations.some((s) => s.id === id));
    if (alone.length === 0) throw new AppError("badRequest", "Only stations can be run alone.");
    const { orderId, from, to } = request;
    await learnThere(user, siteId, {
      id: orderId as string,
      stationIds: alone,
      ...(from ? { from } : {}),
      ...(to ? { to } : {}),
    });
  }
  await inTransaction(async () => {
    await lockSite(user.organisationId, siteId);
    if (answer === "taken") await takeFigure(user, site, morning, finding, stationIds);
    await keepAnswer(
      { organisationId: user.organisationId, siteId },
      {
        findingId: finding.id,
        answer,
        words: request.words.trim(),
        forUser: forUser ?? null,
        changeLpm: finding.changeLpm,
        answeredBy: user.userId,
      },
    );
    await audited(user, "answeredFinding", site.file.site.name);
  });
  return morningsStatus(user, siteId);
}

/** The figure that nights read becomes the station's, as if it had been learned. */
async function takeFigure(
  user: SignedIn,
  site: LoadedSite,
  morning: KeptMorning,
  finding: Finding,
  stationIds: string[],
): Promise<void> {
  const [stationId] = stationIds;
  if (!stationId || stationIds.length > 1 || !finding.certain)
    throw new AppError(
      "badRequest",
      "Which station it is, or how much each of several flows, the nights do not tell. Run them alone to learn their figures.",
    );
  const now = morning.reckoning.stations.find((s) => s.stationId === stationId);
  if (!now || now.nowLpm === null || now.sdLpm === null)
    throw new AppError("badRequest", "The nights say no figure of this station.");
  await takeFromNights(user, site, {
    stationId,
    meanLpm: now.nowLpm,
    sdLpm: now.sdLpm,
    nights: morning.reckoning.nights,
    upTo: morning.night,
  });
}

/** In a worker: the night behind each site whose gateway was heard, when people come to work there, and once more when it is over. */
export async function reckonNights(now: Date): Promise<number> {
  const due = (await sitesToReckon()).flatMap((site) => {
    const of = dueNight(site, now);
    return of ? [{ site, ...of }] : [];
  });
  for (let i = 0; i < due.length; i += AT_ONCE)
    await Promise.all(
      due.slice(i, i + AT_ONCE).map(({ site, night, whole }) =>
        reckonNight(site, night, whole).catch(async (error) => {
          log.warn({ err: error, site: site.siteId }, "a night was not reckoned");
          // What is too large today would be so a minute later; whatever else went wrong is tried again.
          if (error instanceof AppError) await markReckoned(site.siteId, night, whole);
        }),
      ),
    );
  return due.length;
}

/** Which night of a site is to be looked at now; null where it has been. */
function dueNight(site: ToReckon, now: Date): { night: string; whole: boolean } | null {
  const t = Math.floor(now.getTime() / 1000);
  let clock: string;
  try {
    clock = localClock(site.timeZone, t).slice(0, 5);
  } catch {
    return null;
  }
  const night = addDays(localDate(site.timeZone, t), -1);
  const whole = clock >= OVER;
  if (clock < AT_WORK) return null;
  const known = site.night !== null && (site.night > night || (site.night === night && (site.whole || !whole)));
  return known ? null : { night, whole };
}

/** Reads a night of a gateway out of the database, and what is known after it. Nights that were read later are not reckoned again: they are by their own mornings. */
export async function reckonNight(
  { organisationId, siteId, timeZone }: Of & { timeZone: string },
  night: string,
  whole: boolean,
): Promise<void> {
  const of = { organisationId, siteId };
  const row = await siteById(of.organisationId, of.siteId);
  const revision = row && (await revisionAt(of.siteId, row.version));
  if (!revision || !(await gatewayOf(of.siteId))) return;
  const site = { file: revision.siteFile };
  const noon = (date: string): EpochS => instantOf(timeZone, date, "12:00");
  const rows = await readingsOfNight(of.siteId, new Date(1000 * noon(night)), new Date(1000 * noon(addDays(night, 1))));
  const read = await heavy(of.organisationId, "nightsOfRows", [site.file, rows], { budgetS: BUDGET_S });
  const kept = read.find((n) => n.night === night);
  const mornings = kept ? await worked(of, site, [kept], night, [night]) : [];
  await inTransaction(async () => {
    await lockSite(of.organisationId, of.siteId);
    // Taken as done with what it tells: one that is killed before begins anew; of two the first is enough.
    if (!(await markReckoned(siteId, night, whole)) || !kept) return;
    await keepNight(of, kept, "gateway", whole);
    for (const m of mornings) if (m.night === night) await keepMorning(of, revision.version, m);
  });
}
