import type { SiteFile } from "../core/site-file/schema.ts";
import { Facts, Part, Title, Warning, Words } from "./parts.tsx";
import { SOURCE_WORDS } from "./words.ts";

/** Roles, whose numbers are written in by hand: Presa makes none up. */
const CALL = ["Site manager", "Irrigation contractor, on call", "Water supplier, emergencies", "Electrician"];
const place = (e: { description?: string | undefined; notes?: string | undefined }): string =>
  [e.description, e.notes].filter(Boolean).join(". ");

/** Where the water and the power are shut off by hand, in words; and whom to call. */
export function EmergencyCard({ site }: { site: SiteFile }) {
  const sources = new Map(site.sources.map((s) => [s.id, s]));
  const controllers = new Map(site.controllers.map((c) => [c.id, c.name]));
  return (
    <>
      <Title>Emergency card</Title>
      <Words>{place(site.site)}</Words>
      <Warning>
        Water that undermines ground, comes near electricity or floods a road: keep people away first, then shut it off
        at the point of connection. Nobody steps into a flooded vault or pump house.
      </Warning>
      <Part title="1. Stop the watering at the controller">
        <Facts
          of={site.controllers.map(
            (c) => [c.name, place(c) || "turn it to off; where it hangs is not written down yet"] as const,
          )}
        />
      </Part>
      <Part title="2. Shut the water off by hand">
        {site.pocs.map((p) => {
          const valves = p.devices.filter((d) => d.kind === "masterValve");
          const from = p.sourceIds.flatMap((id) => sources.get(id) ?? []);
          return (
            <Part key={p.id} title={p.name} together>
              <Facts
                of={[
                  ["Where", place(p) || "not written down yet: enter it at this point of connection"],
                  ["Water from", from.map((s) => `${s.name} (${SOURCE_WORDS[s.kind]})`).join(", ")],
                  [
                    "Close by hand",
                    p.devices.some((d) => d.kind === "backflow")
                      ? "either valve of the backflow preventer, or the valve before it"
                      : "the valve before the meter",
                  ],
                  [
                    "Master valve",
                    valves
                      .map(
                        (v) =>
                          `${v.name ?? "master valve"}, shut while it has no power: ${v.normally === "closed" ? "yes" : "no, it stays open"}${v.controllerId ? `; switched by ${controllers.get(v.controllerId) ?? v.controllerId}` : ""}`,
                      )
                      .join("; "),
                  ],
                  [
                    "Pump",
                    p.devices.some((d) => d.kind === "pump")
                      ? "switch it off at its own isolator before a valve is closed"
                      : "",
                  ],
                ]}
              />
            </Part>
          );
        })}
      </Part>
      <Part title="3. Call" together>
        <Facts lines of={CALL.map((role) => [role, ""] as const)} />
      </Part>
    </>
  );
}
