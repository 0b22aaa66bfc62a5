import { PAPER_WORDS, type Paper, type PaperLetterRequest, type PaperQuery } from "../../contracts/paper.ts";
import { addDays, addMonths, instantOf, localDate } from "../../core/dates/wall-time.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { paperLetter } from "../../core/tell/letters.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { insertPaperLetter, papersSince } from "../db/telling.ts";
import { mailIsSet } from "../tell/post.ts";
import { audited } from "./audited.ts";
import { alarmsOfTime } from "../db/alarms.ts";
import { logoOf } from "../db/logo.ts";
import { heavy } from "../heavy/pool.ts";
import type { PaperOf } from "../../paper/render.tsx";
import { profilesFor } from "./controllers.ts";
import { organisationView } from "./organisation.ts";
import { loadSite, siteOf } from "./sites.ts";
import { waterUsed } from "./water.ts";

/** The most alarms on one paper: none is left out in silence. */
const MOST_ALARMS = 2000;
/** A book of a very large site takes its time, s. */
const BUDGET_S = 60;

export type PaperFile = { content: Uint8Array; name: string };

/** A sheet of a site as it stands, or of a time: the last twelve months where none is said. */
export async function paper(
  user: SignedIn,
  siteId: string,
  kind: Paper,
  query: PaperQuery,
  now: Date,
): Promise<PaperFile> {
  const { file, version } = await loadSite(user, siteId);
  const date = localDate(file.site.timeZone, now.getTime() / 1000);
  const to = query.to ?? date;
  const from = query.from ?? `${addMonths(to, -11).slice(0, 7)}-01`;
  const [{ name: organisation }, logo, profiles] = await Promise.all([
    organisationView(user),
    logoOf(user.organisationId),
    profilesFor(user.organisationId),
  ]);
  const of: PaperOf = {
    kind,
    size: query.size ?? (file.site.units === "us" ? "LETTER" : "A4"),
    language: query.language ?? "en",
    site: file,
    version,
    date,
    organisation,
    logo: logo && `data:${logo.type};base64,${logo.content.toString("base64")}`,
    profiles,
    used: kind === "water" ? await waterUsed(user, siteId, { from, to, by: "cause", step: "month" }, now) : null,
    alarms: kind === "alarms" ? { list: await alarmsBetween(user, siteId, file, from, to), from, to } : null,
  };
  const content = await heavy(user.organisationId, "paper", [of], { budgetS: BUDGET_S });
  return { content, name: nameOf(file, kind, PAPER_WORDS[kind].dated ? to : date) };
}

/** So many sheets somebody sends in an hour, and no more: Presa is no way to write to the whole world. */
const MOST_AN_HOUR = 30;
const HOUR_MS = 3_600_000;

/** Sends a sheet to an address, in the name of whoever asks; once under its id. */
export async function mailPaper(
  user: SignedIn,
  siteId: string,
  kind: Paper,
  { id, email, words, ...query }: PaperLetterRequest,
  now: Date,
): Promise<{ to: string }> {
  const { name: site } = await siteOf(user, siteId);
  if (!mailIsSet())
    throw new AppError("unavailable", "No mail server is set up here. Download the sheet and send it yourself.");
  if ((await papersSince(user.userId, new Date(now.getTime() - HOUR_MS))) >= MOST_AN_HOUR)
    throw new AppError("tooManyTries", `${MOST_AN_HOUR} sheets an hour is the most. Wait a little.`);
  const { content, name } = await paper(user, siteId, kind, query, now);
  const { title } = PAPER_WORDS[kind];
  await inTransaction(async () => {
    const letter = paperLetter(title, site, user.name, words);
    const sheet = { content: Buffer.from(content), name };
    if (await insertPaperLetter(user, `paper:${id}`, email, letter, sheet))
      await audited(user, "mailedPaper", `${title} of ${site} to ${email}`);
  });
  return { to: email };
}

/** A file name that any system takes. */
const nameOf = ({ site }: SiteFile, kind: Paper, date: string): string =>
  `${
    site.name
      .normalize("NFKD")
      .replace(/[^A-Za-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "site"
  }-${PAPER_WORDS[kind].title.toLowerCase().replace(/\s+/g, "-")}-${date}.pdf`;

async function alarmsBetween(
  user: SignedIn,
  siteId: string,
  { site }: SiteFile,
  from: string,
  to: string,
): Promise<NonNullable<PaperOf["alarms"]>["list"]> {
  const at = (date: string): Date => new Date(1000 * instantOf(site.timeZone, date, "00:00"));
  const alarms = await alarmsOfTime(user.organisationId, siteId, at(from), at(addDays(to, 1)), MOST_ALARMS + 1);
  if (alarms.length > MOST_ALARMS)
    throw new AppError("tooLarge", `More than ${MOST_ALARMS} alarms were raised in this time. Choose a shorter one.`);
  return alarms.map((a) => ({
    at: a.at,
    message: a.message,
    rehearsed: a.rehearsed,
    state: a.state,
    cause: a.cause,
    clearedBy: a.clearedByName,
    clearedAt: a.clearedAt,
    lostL: a.departedL ?? a.nightLostL,
  }));
}
