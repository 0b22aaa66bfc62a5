import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";

export type Severity = "error" | "warning" | "note";
export type Finding = { severity: Severity; code: string; path: string; subjectId: string; message: string };

export const finding = (
  severity: Severity,
  code: string,
  path: string,
  subjectId: string,
  message: string,
): Finding => ({ severity, code, path, subjectId, message });
export const flowWords = (site: SiteFile, lpm: number): string => showQuantity(lpm, "flow", site.site.units, 1);
