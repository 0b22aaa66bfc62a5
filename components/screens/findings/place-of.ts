import type { Finding } from "@/core/check/finding";

const WIRED = new Set([
  "addressTwice",
  "serialTwice",
  "overCurrent",
  "acOnBattery",
  "coilUnknown",
  "latchingOnMains",
  "wireReading",
]);
const LIMITS_OF_MAINS = /(burst|offSchedule)/;

/** Where a finding is mended: the screen of a site, its view, and what is to be chosen there. */
export function placeOf({ path, code, subjectId }: Pick<Finding, "path" | "code" | "subjectId">): string {
  const at = `at=${encodeURIComponent(subjectId)}`;
  if (code.startsWith("pressure") || code === "networkUnbalanced") return "waterworks?view=pressure";
  // It is cleared with its cause, in the Log.
  if (code === "lockedOut") return "log";
  if (WIRED.has(code)) return "waterworks?view=devices";
  if (path.startsWith("policy")) return "limits";
  if (LIMITS_OF_MAINS.test(path)) return "limits?view=mains";
  if (path.startsWith("stations")) return `stations?${at}`;
  if (path.startsWith("programs[")) return `programs?${at}`;
  if (/^(programs|site|weatherInputs)/.test(path)) return "programs?view=site";
  if (/^sensor|Sensor/.test(code) && code !== "noSensor") return `sensors?${at}`;
  return `waterworks?${at}`;
}
