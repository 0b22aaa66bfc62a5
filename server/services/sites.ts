import { randomBytes } from "node:crypto";
import type { Change } from "../../core/site-file/difference.ts";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import { lockedIn, withLocks } from "../../core/site-file/locks.ts";
import { SCHOOLS } from "../../core/limits/schools.ts";
import { filesNamed } from "../../core/site-file/files-named.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { audited } from "./audited.ts";
import { AppError, badFile } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { keepFlowFigures } from "../db/flow-figures.ts";
import { once } from "../db/once.ts";
import { settingsOf } from "../db/keeping.ts";
import { projectElements } from "../db/elements.ts";
import { noteNamed } from "../db/kept-files.ts";
import { insertRevision, revisionAt } from "../db/revisions.ts";
import { tell } from "../db/listen.ts";
import { heavy } from "../heavy/pool.ts";
import type { Refused, Settled } from "../heavy/tasks.ts";
import { isUuid } from "../uuid.ts";
import { insertSite, lockSite, setSiteHead, type SiteRow, siteByFileId, siteById } from "../db/sites.ts";

export type LoadedSite = { id: string; version: number; file: SiteFile };

export async function loadSite(user: SignedIn, siteId: string): Promise<LoadedSite> {
  const row = isUuid(siteId) ? await siteById(user.organisationId, siteId) : null;
  const revision = row && (await revisionAt(row.id, row.version));
  if (!row || !revision) throw new AppError("notFound", "There is no such site in your organisation.");
  return { id: row.id, version: row.version, file: revision.siteFile };
}

/**
 * A site from nothing: a name, a place in time and units. What it has is drawn on Waterworks next.
 *
 * @param key of this one intention: asked again under it, the same site is answered
 */
export async function createSite(
  user: SignedIn,
  request: { name: string; timeZone: string; units: "us" | "metric" },
  key: string | null = null,
): Promise<LoadedSite> {
  const { school } = await settingsOf(user.organisationId);
  const usual = SCHOOLS.find((s) => s.id === school) ?? SCHOOLS[0];
  const file = {
    format: "presa-site",
    version: 1,
    site: {
      id: newSiteId(),
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
    policy: { ...usual?.policy, preset: usual?.id },
  };
  return addSite(user, await accepted(user, file), "Site created", key);
}

/**
 * A site begun from another as a pattern: what is built and set there, without its history, serial numbers and learned figures.
 *
 * @param key as in createSite
 */
export async function createFrom(
  user: SignedIn,
  request: { from: string; name: string; timeZone: string },
  key: string | null = null,
): Promise<LoadedSite> {
  const { file } = await loadSite(user, request.from);
  const of = { id: newSiteId(), name: request.name.trim(), timeZone: request.timeZone };
  const parsed = await heavy(user.organisationId, "pattern", [file, of]);
  if (!parsed.ok) throw badFile(parsed.problems);
  return addSite(user, parsed.site, `Begun from ${file.site.name}`, key);
}

const newSiteId = (): string => `site-${randomBytes(5).toString("hex")}`;

/** A whole site file as text, as exported: refused as a whole, or taken as a whole. The key is as in createSite. */
export async function importSite(user: SignedIn, text: string, key: string | null = null): Promise<LoadedSite> {
  const parsed = await heavy(user.organisationId, "readSiteText", [text]);
  if (!parsed.ok) throw badFile(parsed.problems);
  return addSite(user, parsed.site, "Imported from a site file", key);
}

async function addSite(user: SignedIn, file: SiteFile, note: string, key: string | null): Promise<LoadedSite> {
  if (user.ownSitesOnly)
    throw new AppError("notAllowed", "You see the sites that are given to you. A manager begins new ones.");
  let added: LoadedSite | undefined;
  const id = await once(user.organisationId, key, async () => {
    added = await insertWhole(user, file, note);
    return added.id;
  });
  return added ?? (await loadSite(user, id));
}

async function insertWhole(user: SignedIn, file: SiteFile, note: string): Promise<LoadedSite> {
  return inTransaction(async () => {
    if (await siteByFileId(user.organisationId, file.site.id))
      throw new AppError(
        "conflict",
        `A site with the id "${file.site.id}" is already here. To have the file beside it, give site.id in the file another id.`,
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
  bySite = false,
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
    bySite,
  });
  await setSiteHead(row.id, version, file.site.name);
  await projectElements(user.organisationId, row.id, before, file);
  // They stay as long as the site: a revision of it names them.
  await noteNamed(row.id, filesNamed(file).filter(isUuid));
  await keepFlowFigures(
    { organisationId: user.organisationId, siteId: row.id, version, userId: user.userId },
    before,
    file,
  );
  // Heard once the transaction is through: everyone who has the site open is told at once.
  await tell(`site_${row.id}`, { type: "saved", version, by: bySite ? "The controller" : user.name });
  return { id: row.id, version, file };
}

async function accepted(user: SignedIn, value: unknown): Promise<SiteFile> {
  const parsed = await heavy(user.organisationId, "readSite", [value]);
  if (!parsed.ok) throw badFile(parsed.problems);
  return parsed.site;
}

/**
 * Saves a changed configuration as a new revision. Validated by the same core functions as everywhere; refused when
 * another writer saved since `baseVersion`, with what they changed in words, so nothing is overwritten silently.
 */
export async function saveSite(
  user: SignedIn,
  siteId: string,
  request: { baseVersion: number; file: unknown; note: string },
): Promise<LoadedSite & { changes: Change[] }> {
  const row = await siteOf(user, siteId);
  const base = await revisionAt(row.id, request.baseVersion);
  if (!base) throw new AppError("notFound", `There is no revision ${request.baseVersion} of this site.`);
  // Worked out before the row is locked: nobody waits with a lock or a connection in hand for a thread.
  const settled = await heavy(user.organisationId, "settleSave", [
    base.siteFile,
    request.file,
    user.name,
    new Date().toISOString(),
  ]);
  return saveSettled(user, row.id, base, settled, request.note);
}

/**
 * Saves what was worked out on top of a revision; refused where somebody saved since.
 *
 * @param within what is written in the same transaction, where anything changed
 */
export async function saveSettled(
  user: SignedIn,
  siteId: string,
  base: { version: number; siteFile: SiteFile },
  settled: Refused | Settled,
  note: string,
  within?: (saved: LoadedSite) => Promise<void>,
): Promise<LoadedSite & { changes: Change[] }> {
  const saved = await inTransaction(async () => {
    const now = await lockSite(user.organisationId, siteId);
    if (!now) throw noSite();
    mustBeWorkedOn(now);
    if (now.version !== base.version) return null;
    if (!settled.ok) throw badFile(settled.problems);
    const { file, changes } = settled;
    if (changes.length === 0) return { id: siteId, version: now.version, file: base.siteFile, changes };
    const written = await write(user, now, base.siteFile, file, changes, note);
    await within?.(written);
    return { ...written, changes };
  });
  if (!saved) throw await overtaken(user, siteId, base);
  return saved;
}

export function mustBeWorkedOn(site: SiteRow): void {
  if (site.archivedAt !== null)
    throw new AppError("conflict", `${site.name} is archived. Bring it back first; nothing was changed.`);
}

const noSite = (): AppError => new AppError("notFound", "There is no such site in your organisation.");

/** That the site is there and the organisation's own, without its file. */
export async function siteOf(user: SignedIn, siteId: string): Promise<SiteRow> {
  const row = isUuid(siteId) ? await siteById(user.organisationId, siteId) : null;
  if (!row) throw noSite();
  return row;
}

/** Somebody saved since `base`: who, and what they changed, in words. */
async function overtaken(
  user: SignedIn,
  siteId: string,
  base: { version: number; siteFile: SiteFile },
): Promise<AppError> {
  const row = await siteById(user.organisationId, siteId);
  const current = row && (await revisionAt(siteId, row.version));
  if (!current) return noSite();
  const { version, madeByName: by, siteFile: file } = current;
  return new AppError(
    "staleVersion",
    `${by} saved revision ${version} while you were editing revision ${base.version}. Nothing of yours was saved yet.`,
    {
      current: { version, by, file },
      theirs: await heavy(user.organisationId, "differences", [base.siteFile, file]),
    },
  );
}

/** Puts an earlier revision back as a new one; nothing of the history is lost. What is locked out now stays so, and nothing else is: only clearing an alarm frees. */
export async function restoreRevision(
  user: SignedIn,
  siteId: string,
  version: number,
  baseVersion: number,
): Promise<LoadedSite & { changes: Change[] }> {
  const row = isUuid(siteId) ? await siteById(user.organisationId, siteId) : null;
  const old = row && (await revisionAt(row.id, version));
  if (!old) throw new AppError("notFound", "There is no such revision.");
  const now = await revisionAt(row.id, row.version);
  const locked = now ? lockedIn(now.siteFile) : [];
  const file = withLocks(withLocks(old.siteFile, lockedIn(old.siteFile), false), locked, true);
  return saveSite(user, siteId, { baseVersion, file, note: `Revision ${version} put back` });
}

/**
 * Changes the current configuration in one step under the row's lock, for what the server itself enters (lockouts, learned flows).
 *
 * @param bySite the controllers did it by themselves: the revision is theirs, not this person's
 */
export async function amendSite(
  user: SignedIn,
  siteId: string,
  note: string,
  amend: (file: SiteFile) => SiteFile,
  bySite = false,
): Promise<LoadedSite> {
  return inTransaction(async () => {
    const row = isUuid(siteId) ? await lockSite(user.organisationId, siteId) : null;
    const current = row && (await revisionAt(row.id, row.version));
    if (!row || !current) throw new AppError("notFound", "There is no such site in your organisation.");
    mustBeWorkedOn(row);
    const settled = await heavy(user.organisationId, "settleAmended", [
      current.siteFile,
      amend(structuredClone(current.siteFile)),
      new Date().toISOString(),
    ]);
    if (!settled.ok) throw badFile(settled.problems);
    const { file, changes } = settled;
    return changes.length === 0
      ? { id: row.id, version: row.version, file }
      : write(user, row, current.siteFile, file, changes, note, bySite);
  });
}

export async function exportSite(user: SignedIn, siteId: string): Promise<{ name: string; text: string }> {
  const { file } = await loadSite(user, siteId);
  await audited(user, "exportedSite", file.site.name);
  return { name: `${file.site.id.replace(/[^a-zA-Z0-9._-]/g, "_")}.presa.json`, text: writeSiteText(file) };
}
