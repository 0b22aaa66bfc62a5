import { stationName } from "@/core/site-file/station-name";
import type { PlacedOrder, SendState } from "@/contracts/controllers";
import type { Order } from "@/core/field/orders";
import type { Moved } from "@/core/settings/compare";
import type { SiteFile } from "@/core/site-file/schema";

export const SEND_WORDS: Record<SendState, string> = {
  waiting: "waits for the gateway",
  sent: "sent, not answered",
  taken: "taken",
  partly: "taken in part",
  failed: "refused",
  overtaken: "overtaken by a later one",
};
export const ORDER_STATE: Record<PlacedOrder["state"], string> = {
  waiting: "not answered yet",
  done: "done",
  refused: "refused",
  expired: "came too late, not done",
};
export const MOVED_WORDS: Record<Moved, string> = {
  controller: "changed at the controller",
  presa: "changed in Presa, not sent",
  both: "changed at both ends",
  refused: "not taken by the controller",
  unknown: "nothing was sent yet",
};

/** What was asked, in words. */
export function orderWords(site: SiteFile, what: Order): string {
  const station = (id: string): string => stationName(site, id);
  const named = (list: readonly { id: string; name: string }[], id: string): string =>
    list.find((x) => x.id === id)?.name ?? id;
  switch (what.kind) {
    case "run":
      return `Run ${what.runs.map((r) => `${station(r.stationId)} for ${r.minutes} min`).join(", ")}`;
    case "program":
      return `Begin ${named(site.programs, what.programId)}${what.fromStationId ? ` from ${station(what.fromStationId)}` : ""}${what.minutes ? `, ${what.minutes} min a station` : ""}`;
    case "skip":
      return "Skip to the next";
    case "walk":
      return `Walk all stations of ${named(site.controllers, what.controllerId)}, ${what.minutes} min each`;
    case "stop":
      return "Stop everything";
    case "off":
      return what.until === "indefinite" ? "Off, with no end" : `Off until ${what.until}`;
    case "resume":
      return "Resume";
    case "hand":
      return `Open ${named(site.pocs, what.pocId)} for hand watering, ${what.minutes} min`;
    case "learn":
      return `Learn ${what.stationIds.length} station${what.stationIds.length === 1 ? "" : "s"} there`;
    case "clear":
      return `Free ${what.ids.map(station).join(", ")}`;
    case "lock":
      return `Lock out ${what.ids.map(station).join(", ")}`;
    case "check":
      return `Valve check by wire of ${named(site.controllers, what.controllerId)}`;
    case "read":
      return "Read back";
    case "clock":
      return "Set the clocks right";
  }
}
