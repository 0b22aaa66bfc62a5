import { deviceSchema } from "../site-file/devices-schema.ts";
import type { Device } from "../site-file/schema.ts";

/** A device as a data sheet gives it: without what belongs to one place of one site. */
export type DeviceBody = DistributiveOmit<Device, Own>;
type Own =
  | "id"
  | "name"
  | "serial"
  | "address"
  | "controllerId"
  | "wirePathId"
  | "checks"
  | "provings"
  | "lengthM"
  | "maxVelocityMs"
  | "maxVelocityReason";
type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;
export type LibraryItem = { name: string; note: string; body: DeviceBody };

const OWN: ReadonlySet<string> = new Set<Own>([
  "id",
  "name",
  "serial",
  "address",
  "controllerId",
  "wirePathId",
  "checks",
  "provings",
  "lengthM",
  "maxVelocityMs",
  "maxVelocityReason",
]);

export function bodyOf(device: Device): DeviceBody {
  return Object.fromEntries(Object.entries(device).filter(([key]) => !OWN.has(key))) as DeviceBody;
}

/** A device of the site with the body of a library item; what belongs to its place stays. A kind does not change. */
export function withBody<T extends Device>(device: T, item: LibraryItem): T {
  if (item.body.kind !== device.kind) return device;
  const own = Object.fromEntries(Object.entries(device).filter(([key]) => OWN.has(key)));
  return {
    ...item.body,
    name: item.name,
    ...own,
    ...(device.name === undefined ? { name: item.name } : {}),
  } as unknown as T;
}

/** Checks a body that comes from outside; the first thing wrong, in words, or the body. */
export function parseBody(value: unknown): { ok: true; body: DeviceBody } | { ok: false; problem: string } {
  const whole =
    typeof value === "object" && value !== null
      ? { id: "item", ...((value as { kind?: unknown }).kind === "pipe" ? { lengthM: 1 } : {}), ...value }
      : value;
  const parsed = deviceSchema.safeParse(whole);
  if (parsed.success) return { ok: true, body: bodyOf(parsed.data) };
  const issue = parsed.error.issues[0];
  return { ok: false, problem: `${issue?.path.join(".") || "kind"}: ${issue?.message ?? "is not right"}` };
}
