import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

type Row = {
  elementId: string;
  kind: string;
  name: string;
  number: number | null;
  expectedLpm: number | null;
  lockedOut: boolean;
  serial: string | null;
};
const PLAIN = { number: null, expectedLpm: null, lockedOut: false, serial: null };

const serialOf = (device: object): string | null => ("serial" in device ? ((device.serial as string) ?? null) : null);

/** Every piece of a site that something may point at. */
function elementsOf(file: SiteFile): Row[] {
  const devices = [
    ...file.pocs.flatMap((p) => p.devices),
    ...file.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
  ];
  const plain = (kind: string, of: readonly { id: string; name: string; lockedOut?: boolean | undefined }[]): Row[] =>
    of.map((e) => ({ ...PLAIN, elementId: e.id, kind, name: e.name, lockedOut: e.lockedOut === true }));
  return [
    ...plain("source", file.sources),
    ...plain("poc", file.pocs),
    ...plain("mainline", file.mainlines),
    ...plain("controller", file.controllers),
    ...plain("program", file.programs),
    ...devices.map((d) => ({ ...PLAIN, elementId: d.id, kind: "device", name: d.name ?? d.id, serial: serialOf(d) })),
    ...file.stations.map((s) => ({
      elementId: s.id,
      kind: "station",
      name: s.name,
      number: s.number,
      expectedLpm: expectedFlow(s)?.lpm ?? null,
      lockedOut: s.lockedOut === true,
      serial: s.serial ?? null,
    })),
  ];
}

/**
 * The element table follows the current revision: gone elements stay, marked absent, for the history that points at them. Only what differs from the revision before is
 * written: mostly a few of many, or none.
 */
export async function projectElements(
  organisationId: string,
  siteId: string,
  before: SiteFile | null,
  after: SiteFile,
): Promise<void> {
  const was = new Map((before ? elementsOf(before) : []).map((e) => [e.elementId, JSON.stringify(e)]));
  const now = elementsOf(after);
  const changed = now.filter((e) => was.get(e.elementId) !== JSON.stringify(e));
  for (const e of now) was.delete(e.elementId);
  if (was.size > 0)
    await db()("element")
      .where({ siteId })
      .whereIn("element_id", [...was.keys()])
      .update({ present: false, lockedOut: false });
  const rows = changed.map((e) => ({ ...e, present: true, organisationId, siteId }));
  for (let i = 0; i < rows.length; i += 1000)
    await db()("element")
      .insert(rows.slice(i, i + 1000))
      .onConflict(["site_id", "element_id"])
      .merge();
}

/** Names of elements by site and id, as they stand now: of stations with their number. */
export async function elementNames(
  organisationId: string,
  siteIds: string[],
  elementIds: string[],
): Promise<Map<string, Map<string, string>>> {
  const rows: { siteId: string; elementId: string; kind: string; name: string; number: number | null }[] = await db()(
    "element",
  )
    .where({ organisationId })
    .whereRaw("site_id = any(?) and element_id = any(?)", [siteIds, elementIds])
    .select("site_id", "element_id", "kind", "name", "number");
  const names = new Map<string, Map<string, string>>(siteIds.map((id) => [id, new Map()]));
  for (const r of rows)
    names.get(r.siteId)?.set(r.elementId, r.kind === "station" ? `station ${r.number} ${r.name}` : r.name);
  return names;
}
