import type { SubjectKind } from "./spec.ts";
import { z } from "zod";
import { type EpochS, instantOf } from "../../dates/wall-time.ts";
import { type FileProblem, pathText } from "../../site-file/parse-site.ts";
import type { SiteFile } from "../../site-file/schema.ts";
import { FAULT_KINDS, type FaultKind, faultSpec, needsOther } from "./kinds.ts";

const when = z
  .string()
  .regex(
    /^(\+\d{1,7}|([01]\d|2[0-3]):[0-5]\d:[0-5]\d)$/,
    "is neither HH:MM:SS on the date nor +SECONDS from the first start",
  );
export const faultsSchema = z
  .array(
    z.strictObject({
      at: when,
      until: when.optional(),
      kind: z.enum(FAULT_KINDS),
      subjectId: z.string(),
      size: z.number().min(0).max(1_000_000).optional(),
      otherId: z.string().optional(),
    }),
  )
  .max(1000);
export type FaultRequest = z.infer<typeof faultsSchema>[number];
export type Fault = {
  from: EpochS;
  to: EpochS;
  kind: FaultKind;
  subjectId: string;
  size: number /** The other station of a wiring fault. */;
  otherId?: string;
};

/** What a fault may be dropped on. */
export function faultSubjects(
  site: SiteFile,
  kind: FaultKind,
  wanted: readonly SubjectKind[] = faultSpec(kind).subjects,
): { id: string; label: string }[] {
  const devices = [
    ...site.pocs.flatMap((p) => p.devices.map((d) => ({ d, at: p.name }))),
    ...site.mainlines.flatMap((m) => (m.devices ?? []).map((d) => ({ d, at: m.name }))),
  ];
  return [
    ...(wanted.includes("station") ? site.stations.map((s) => ({ id: s.id, label: `${s.number} ${s.name}` })) : []),
    ...(wanted.includes("source") ? site.sources.map((s) => ({ id: s.id, label: s.name })) : []),
    ...(wanted.includes("mainline") ? site.mainlines.map((m) => ({ id: m.id, label: m.name })) : []),
    ...(wanted.includes("poc") ? site.pocs.map((p) => ({ id: p.id, label: p.name })) : []),
    ...devices
      .filter(({ d }) => (wanted as readonly string[]).includes(d.kind))
      .map(({ d, at }) => ({ id: d.id, label: `${d.name ?? d.id} at ${at}` })),
  ];
}

/**
 * Faults as asked → faults with instants and sizes. `+SECONDS` counts from `firstStart`; a fault without an end lasts.
 * Sizes: L/min, a share for clogged, a factor for wrongK, kPa for pressureDrop.
 */
export function resolveFaults(
  site: SiteFile,
  value: unknown,
  date: string,
  firstStart: EpochS,
): { ok: true; faults: Fault[] } | { ok: false; problem: FileProblem } {
  const parsed = faultsSchema.safeParse(value);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    const path = `faults${pathText(issue?.path ?? [])}`;
    return { ok: false, problem: { code: "shape", path, message: `${path}: ${issue?.message ?? "is not right"}` } };
  }
  const faults: Fault[] = [];
  for (const [i, f] of parsed.data.entries()) {
    if (!faultSubjects(site, f.kind).some((s) => s.id === f.subjectId))
      return {
        ok: false,
        problem: {
          code: "unknownReference",
          path: `faults[${i}].subjectId`,
          message: `faults[${i}]: ${f.kind} belongs on a ${faultSpec(f.kind).subjects.join(" or ")}, and "${f.subjectId}" is none on this site.`,
        },
      };
    const instant = (text: string): EpochS =>
      text.startsWith("+")
        ? firstStart + Number(text.slice(1))
        : instantOf(site.site.timeZone, date, text.slice(0, 5)) + Number(text.slice(6));
    const from = instant(f.at);
    const to = f.until === undefined ? Number.POSITIVE_INFINITY : instant(f.until);
    const wiring = needsOther(f.kind);
    if (wiring && (f.otherId === f.subjectId || !site.stations.some((s) => s.id === f.otherId)))
      return {
        ok: false,
        problem: {
          code: "unknownReference",
          path: `faults[${i}].otherId`,
          message: `faults[${i}]: ${f.kind} needs otherId, another station whose valve opens.`,
        },
      };
    faults.push({
      from,
      to,
      kind: f.kind,
      subjectId: f.subjectId,
      size: f.size ?? faultSpec(f.kind).size?.usual(site, f.subjectId) ?? 0,
      ...(wiring && f.otherId !== undefined ? { otherId: f.otherId } : {}),
    });
  }
  return { ok: true, faults };
}
