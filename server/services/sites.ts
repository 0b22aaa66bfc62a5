import { randomBytes } from "node:crypto";
import { check } from "../../core/check/check.ts";
import { type Change, difference } from "../../core/site-file/difference.ts";
import { stampRecords, stampSince } from "../../core/site-file/records.ts";
import { parseSite, parseSiteText, writeSiteText } from "../../core/site-file/parse-site.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { AppError, badFile } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { keepFlowFigures } from "../db/flow-figures.ts";
import { insertRevision, projectElements, revisionAt } from "../db/revisions.ts";
import { tell } from "../db/listen.ts";
import { insertSite, lockSite, setSiteHead, type SiteRow, siteByFileId, siteById } from "../db/sites.ts";

export type LoadedSite = { id: string; version: number; file: SiteFile };

export async function loadSite(user: SignedIn, siteId: string): Promise<LoadedSite> {
  const row = isUuid(siteId) ? await siteById(user.organisationId, siteId) : null;
  const revision = row && (await revisionAt(row.id, row.version));
  if (!row || !revision) throw new AppError("notFound", "There is no such site in your organisation.");
  return { id: row.id, version: row.version, file: revision.siteFile };
}

export function isUuid(text: string): boolean {
  return /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(text);
}

/** A site from nothing: a name, a place in time and units. What it has is drawn on Waterworks next. */
export async function createSite(
  user: SignedIn,
  request: { name: string; timeZone: string; units: "us" | "metric" },
): Promise<LoadedSite> {
  const file = {
    format: "presa-site",
    version: 1,
    site: {
      id: `site-${randomBytes(5).toString("hex")}`,
      name: request.name.trim(),
      timeZone: request.timeZone,
      units: request.units,
    },
    sources: [],
    pocs: [],
    mainlines: [],
    controllers: [],
    stations: [],
    programs: [],
    policy: {
      preset: "watchful",
      basis: "station",
      highPercent: 20,
      lowPercent: 25,
      persistenceS: 60,
      highResponse: "findAndIsolate",
      lowResponse: "findAndIsolate",
    },
  };
  return addSite(user, accepted(file), "Site created");
}

/** A whole site file as text, as exported. Refused as a whole, or taken as a whole. */
export async function importSite(user: SignedIn, text: string): Promise<LoadedSite> {
  const parsed = parseSiteText(text);
  if (!parsed.ok) throw badFile(parsed.problems);
  return addSite(user, parsed.site, "Imported from a site file");
}

async function addSite(user: SignedIn, file: SiteFile, note: string): Promise<LoadedSite> {
  return inTransaction(async () => {
    if (await siteByFileId(user.organisationId, file.site.id))
      throw new AppError(
        "conflict",
        `A site with the id "${file.site.id}" is already here. Open it and replace its configuration, or change site.id in the file.`,
      );
    const row = await insertSite(user.organisationId, file.site.id, file.site.name);
    return write(user, row, null, file, [{ path: "", words: note }], note);
  });
}

async function write(
  user: SignedIn,
  row: SiteRow,
  before: SiteFile | null,
  file: SiteFile,
  changes: Change[],
  note: string,
): Promise<LoadedSite> {
  const version = row.version + 1;
  await insertRevision({
    organisationId: user.organisationId,
    siteId: row.id,
    version,
    file,
    changes,
    note,
    userId: user.userId,
  });
  await setSiteHead(row.id, version, file.site.name);
  await projectElements(user.organisationId, row.id, file);
  await keepFlowFigures(
    { organisationId: user.organisationId, siteId: row.id, version, userId: user.userId },
    before,
    file,
  );
  // Heard once the transaction is through: everyone who has the site open is told at once.
  await tell(`site_${row.id}`, { type: "saved", version, by: user.name });
  return { id: row.id, version, file };
}

function accepted(value: unknown): SiteFile {
  const parsed = parseSite(value);
  if (!parsed.ok) throw badFile(parsed.problems);
  return parsed.site;
}

/** Findings that a save refuses: the configuration would not mean anything to a controller. Others are saved and shown. */
const REFUSED = new Set([
  "duplicateStationNumber",
  "noDays",
  "datesReversed",
  "pumpCurveOrder",
  "addressTwice",
  "serialTwice",
]);

/**
 * Saves a changed configuration as a new revision. Validated by the same core functions as everywhere; refused when
 * another writer saved since `baseVersion`, with what they changed in words, so nothing is overwritten silently.
 */
export async function saveSite(
  user: SignedIn,
  siteId: string,
  request: { baseVersion: number; file: unknown; note: string },
): Promise<LoadedSite & { changes: Change[] }> {
  const asked = accepted(request.file);
  const refused = check(asked).filter((f) => REFUSED.has(f.code));
  return inTransaction(async () => {
    const row = isUuid(siteId) ? await lockSite(user.organisationId, siteId) : null;
    const current = row && (await revisionAt(row.id, row.version));
    if (!row || !current) throw new AppError("notFound", "There is no such site in your organisation.");
    if (row.version !== request.baseVersion) {
      const base = await revisionAt(row.id, request.baseVersion);
      throw new AppError(
        "staleVersion",
        `${current.madeByName} saved revision ${row.version} while you were editing revision ${request.baseVersion}. Nothing of yours was saved yet.`,
        {
          current: { version: row.version, by: current.madeByName, file: current.siteFile },
          theirs: base ? difference(base.siteFile, current.siteFile) : [],
        },
      );
    }
    const now = new Date().toISOString();
    const file = stampSince(current.siteFile, stampRecords(current.siteFile, asked, user.name, now), now);
    if (file.site.id !== current.siteFile.site.id)
      throw new AppError("badFile", "site.id may not change: revisions, alarms and learned flows hang on it.", {
        problems: [{ code: "shape", path: "site.id", message: "site.id may not change." }],
      });
    const before = new Set(
      check(current.siteFile)
        .filter((f) => REFUSED.has(f.code))
        .map((f) => `${f.code}:${f.subjectId}`),
    );
    const fresh = refused.filter((f) => !before.has(`${f.code}:${f.subjectId}`));
    if (fresh.length > 0) throw badFile(fresh.map((f) => ({ code: "shape", path: f.path, message: f.message })));
    const changes = difference(current.siteFile, file);
    if (changes.length === 0) return { id: row.id, version: row.version, file: current.siteFile, changes };
    return { ...(await write(user, row, current.siteFile, file, changes, request.note)), changes };
  });
}

/** Puts an earlier revision back as a new one; nothing of the history is lost. */
export async function restoreRevision(
  user: SignedIn,
  siteId: string,
  version: number,
  baseVersion: number,
): Promise<LoadedSite & { changes: Change[] }> {
  const row = isUuid(siteId) ? await siteById(user.organisationId, siteId) : null;
  const old = row && (await revisionAt(row.id, version));
  if (!old) throw new AppError("notFound", "There is no such revision.");
  return saveSite(user, siteId, { baseVersion, file: old.siteFile, note: `Revision ${version} put back` });
}

/** Changes the current configuration in one step under the row's lock, for what the server itself enters (lockouts, learned flows). */
export async function amendSite(
  user: SignedIn,
  siteId: string,
  note: string,
  amend: (file: SiteFile) => SiteFile,
): Promise<LoadedSite> {
  return inTransaction(async () => {
    const row = isUuid(siteId) ? await lockSite(user.organisationId, siteId) : null;
    const current = row && (await revisionAt(row.id, row.version));
    if (!row || !current) throw new AppError("notFound", "There is no such site in your organisation.");
    const file = stampSince(
      current.siteFile,
      accepted(amend(structuredClone(current.siteFile))),
      new Date().toISOString(),
    );
    const changes = difference(current.siteFile, file);
    return changes.length === 0
      ? { id: row.id, version: row.version, file }
      : write(user, row, current.siteFile, file, changes, note);
  });
}

export async function exportSite(user: SignedIn, siteId: string): Promise<{ name: string; text: string }> {
  const { file } = await loadSite(user, siteId);
  return { name: `${file.site.id.replace(/[^a-zA-Z0-9._-]/g, "_")}.presa.json`, text: writeSiteText(file) };
}
