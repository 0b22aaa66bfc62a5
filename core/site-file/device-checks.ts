import type { Device, DeviceCheck } from "./schema.ts";

/** The check of any device: it is there, as drawn. A flow sensor has checks of its wiring besides. */
export const ON_THE_SPOT = "onTheSpot";

/** Whether a device is one to stand before; pipes lie buried, and a fixed loss is only a figure. */
export const standsOnTheSpot = (device: Device): boolean => device.kind !== "pipe" && device.kind !== "fixedLoss";

export function latestCheck(device: Device, check: string): DeviceCheck | null {
  return (device.checks ?? []).findLast((c) => c.check === check) ?? null;
}

/** Notes a check. Who and when are the server's to enter; until saved it is the person's own clock. */
export function withCheck<T extends Device>(device: T, made: DeviceCheck): T {
  const note = made.note?.trim();
  const { note: _, ...check } = made;
  return { ...device, checks: [...(device.checks ?? []), { ...check, ...(note ? { note } : {}) }] };
}
