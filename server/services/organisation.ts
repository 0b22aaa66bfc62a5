import { createGzip } from "node:zlib";
import { Readable } from "node:stream";
import {
  AUDITED,
  type AuditFilter,
  type AuditRow,
  type Keeping,
  type OrganisationSettings,
  type OrganisationView,
} from "../../contracts/organisation.ts";
import { csvLine } from "../../core/exports/csv.ts";
import { AppError } from "../app-error.ts";
import { passwordMatches } from "../auth/password.ts";
import type { SignedIn } from "../auth/session.ts";
import { auditOf } from "../db/audit.ts";
import { inTransaction } from "../db/connection.ts";
import { eraseOrganisation, everythingOf } from "../db/everything.ts";
import { accountsOf } from "../db/field.ts";
import { organisationById, setKeeping, setSettings, settingsOf } from "../db/keeping.ts";
import { tell } from "../db/listen.ts";
import { asOperator } from "../db/reach.ts";
import { colleagues, endSessionsOfOrganisation, userById } from "../db/users.ts";
import { closeAccount } from "../field/accounts.ts";
import { log } from "../log.ts";
import { audited } from "./audited.ts";

const PAGE = 100;
/** Lines of the audit that go out as CSV at once. */
const MOST_AUDIT = 100_000;
/** An export of which nothing is taken for so long is given up, ms. */
const STALLS_MS = 30_000;
/** So many exports at once in this process. */
const MOST_EXPORTS = 4;

export async function organisationView(user: SignedIn): Promise<OrganisationView> {
  const [row, people] = await Promise.all([organisationById(user.organisationId), colleagues(user.organisationId)]);
  if (!row) throw new AppError("notFound", "This organisation is gone.");
  const { readingsDays, eventsDays, photosDays } = row;
  return { name: row.name, keeping: { readingsDays, eventsDays, photosDays }, people: people.map((p) => p.name) };
}

/** The organisation's name, and what its new sites begin with. */
export const settings = (user: SignedIn): Promise<OrganisationSettings> => settingsOf(user.organisationId);

export async function changeSettings(user: SignedIn, asked: OrganisationSettings): Promise<OrganisationSettings> {
  await inTransaction(async () => {
    const before = await settingsOf(user.organisationId);
    await setSettings(user.organisationId, asked);
    const keys = Object.keys(asked) as (keyof OrganisationSettings)[];
    const words = keys
      .filter((k) => asked[k] !== before[k])
      .map((k) => `${k} ${before[k] ?? "none"} → ${asked[k] ?? "none"}`);
    if (words.length > 0) await audited(user, "settingsChanged", words.join(", "));
  });
  return settingsOf(user.organisationId);
}

/** How long things are kept from now on. What is older goes within the hour and does not come back. */
export async function keepFor(user: SignedIn, keeping: Keeping): Promise<void> {
  await inTransaction(async () => {
    await setKeeping(user.organisationId, keeping);
    const days = (n: number | null): string => (n === null ? "for ever" : `${n} days`);
    await audited(
      user,
      "keepingChanged",
      `readings ${days(keeping.readingsDays)}, events ${days(keeping.eventsDays)}, photographs ${days(keeping.photosDays)}`,
    );
  });
}

export async function auditList(user: SignedIn, filter: AuditFilter): Promise<{ rows: AuditRow[]; more: boolean }> {
  const rows = await auditOf(user.organisationId, filter, PAGE + 1);
  return { rows: rows.slice(0, PAGE), more: rows.length > PAGE };
}

export async function auditCsv(user: SignedIn, filter: AuditFilter): Promise<string> {
  const rows = await auditOf(user.organisationId, filter, MOST_AUDIT);
  await audited(user, "exportedAudit");
  const lines = [["time", "who", "what", "about", "address"]];
  for (const r of rows) lines.push([r.at, r.who, AUDITED[r.what], r.about, r.address ?? ""]);
  return `${lines.map(csvLine).join("\r\n")}\r\n`;
}

const exporting = new Set<string>();

/** Everything that is kept of the organisation, gzipped lines of JSON, as it is read. One at a time an organisation. */
export async function exportEverything(user: SignedIn): Promise<ReadableStream<Uint8Array>> {
  const { organisationId } = user;
  if (exporting.has(organisationId))
    throw new AppError("busy", "Everything is being exported already. Try again when that is done.");
  if (exporting.size >= MOST_EXPORTS) throw new AppError("busy", "Others are exporting now. Try again in a minute.");
  exporting.add(organisationId);
  await audited(user, "exportedAll").catch((error) => {
    exporting.delete(organisationId);
    throw error;
  });
  const lines = Readable.from(everythingOf(organisationId), { objectMode: false, highWaterMark: 1 << 20 });
  const packed = createGzip();
  let stalled: NodeJS.Timeout | undefined;
  const moving = (): void => {
    clearTimeout(stalled);
    stalled = setTimeout(() => packed.destroy(new Error("nobody takes it")), STALLS_MS);
  };
  moving();
  packed.on("data", moving);
  packed.pause();
  lines.on("error", (error) => {
    log.error({ err: error, organisation: organisationId }, "an export broke off");
    packed.destroy(error);
  });
  packed.on("close", () => {
    clearTimeout(stalled);
    exporting.delete(organisationId);
    lines.destroy();
  });
  lines.pipe(packed);
  return Readable.toWeb(packed) as ReadableStream<Uint8Array>;
}

/**
 * Erases the organisation with everything in it, for good: what is left is a note that it was done. Everyone in it is signed out, its gateways are cut off.
 *
 * @param asked the organisation's name as it stands, and the manager's own password
 */
export async function erase(user: SignedIn, asked: { name: string; password: string }): Promise<void> {
  const [row, person] = await Promise.all([organisationById(user.organisationId), userById(user.userId)]);
  if (!row) throw new AppError("notFound", "This organisation is gone.");
  if (asked.name.trim() !== row.name)
    throw new AppError("badRequest", `The name does not agree: it is ${row.name}. Nothing was erased.`);
  if (!(await passwordMatches(person?.passwordHash, asked.password)))
    throw new AppError("badRequest", "That is not your password. Nothing was erased.");
  const accounts = await accountsOf(user.organisationId);
  await asOperator(async () => {
    const sessions = await endSessionsOfOrganisation(user.organisationId);
    await eraseOrganisation(row, `${user.name}, ${user.email}`);
    for (const id of sessions) await tell(`session_${id}`, { end: true });
  });
  for (const account of accounts)
    await closeAccount(account).catch((error) => log.error({ err: error, account }, "a gateway's account stays open"));
  log.info({ organisation: user.organisationId }, "an organisation was erased");
}
