import { deviceRules, staticPressureKpa } from "../core/ceilings/ceilings.ts";
import { writtenDate } from "../core/dates/written.ts";
import { sensorProof } from "../core/sensors/proven.ts";
import { setLimits } from "../core/judge/set-limits.ts";
import { policyOfSet } from "../core/judge/policy-of.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { Device, SiteFile } from "../core/site-file/schema.ts";
import { showNumber, toShown, unitLabel } from "../core/units/units.ts";
import { wiredThings } from "../core/wiring/addresses.ts";
import { Grid, Part, Title } from "./parts.tsx";
import { DEVICE_WORDS } from "./words.ts";

type Units = SiteFile["site"]["units"];
type Owned = { owner: string; device: Device; staticKpa: number | null };

const owned = (site: SiteFile): Owned[] => [
  ...site.pocs.flatMap((p) =>
    p.devices.map((device) => ({ owner: p.name, device, staticKpa: staticPressureKpa(site, p) })),
  ),
  ...site.mainlines.flatMap((m) => (m.devices ?? []).map((device) => ({ owner: m.name, device, staticKpa: null }))),
];

/** Everything that water goes through or a wire goes to. @param date on which proofs are looked at */
export function DeviceList({ site, date }: { site: SiteFile; date: string }) {
  return (
    <>
      <Title>Device list</Title>
      <DevicesPart site={site} date={date} />
      <StationsPart site={site} />
    </>
  );
}

export function DevicesPart({ site, date }: { site: SiteFile; date: string }) {
  const { units } = site.site;
  const wired = new Map(wiredThings(site).map((w) => [w.id, w]));
  const controllers = new Map(site.controllers.map((c) => [c.id, c.name]));
  return (
    <Part title="Devices">
      <Grid
        columns={[
          { head: "Device", share: 22 },
          { head: "At", share: 20 },
          { head: "Wired to", share: 16 },
          { head: "Address, serial", share: 14 },
          { head: `Most flow, ${unitLabel("flow", units)}`, share: 14, right: true },
          { head: "Proved", share: 14 },
        ]}
        rows={owned(site).map(({ owner, device: d, staticKpa }) => {
          const w = wired.get(d.id);
          return [
            nameOf(d),
            owner,
            w?.controllerId ? (controllers.get(w.controllerId) ?? w.controllerId) : "",
            [d.address, d.serial].filter(Boolean).join(", "),
            mostFlow(d, staticKpa, units),
            proofWords(d, date, units),
          ];
        })}
      />
    </Part>
  );
}

/** What it is called, and what it is, where the name does not say so. */
function nameOf({ name, kind }: Device): string {
  const what = DEVICE_WORDS[kind];
  if (!name) return what.charAt(0).toUpperCase() + what.slice(1);
  return name.toLowerCase() === what.toLowerCase() ? name : `${name} (${what})`;
}

function mostFlow(d: Device, staticKpa: number | null, units: Units): string {
  const all = deviceRules(d, staticKpa).map((r) => r.lpm);
  return all.length === 0 ? "" : showNumber(toShown(Math.min(...all), "flow", units), 1, 1);
}

function proofWords(d: Device, date: string, units: Units): string {
  if (d.kind !== "flowSensor") return "";
  const proof = sensorProof(d, `${date}T12:00:00Z`);
  if (proof.state === "none") return "never";
  const on = writtenDate(proof.last.at.slice(0, 10), units);
  return proof.state === "proven" ? on : `${on}, to be proved again`;
}

export function StationsPart({ site }: { site: SiteFile }) {
  const { units } = site.site;
  const w = waterworks(site);
  const controllers = new Map(site.controllers.map((c) => [c.id, c.name]));
  const mains = new Map(site.mainlines.map((m) => [m.id, m.name]));
  const unit = unitLabel("flow", units);
  const flow = (lpm: number): string => showNumber(toShown(lpm, "flow", units), 1, 1);
  return (
    <Part title="Stations">
      <Grid
        columns={[
          { head: "Station", share: 24 },
          { head: "Controller", share: 15 },
          { head: "Mainline", share: 15 },
          { head: "Address", share: 9 },
          { head: `Flow, ${unit}`, share: 11, right: true },
          { head: "Known from", share: 11 },
          { head: `Limits, ${unit}`, share: 17, right: true },
        ]}
        rows={site.stations.map((s, i) => {
          const limits = setLimits(policyOfSet(w, [i]), [s]);
          const figure = expectedFlow(s);
          return [
            `${s.number} ${s.name}`,
            controllers.get(s.controllerId) ?? "",
            mains.get(s.mainlineId) ?? "",
            s.address ?? "",
            figure ? flow(figure.lpm) : "not known",
            figure?.from === "learned" && s.learned
              ? writtenDate(s.learned.at.slice(0, 10), units)
              : (figure?.from ?? ""),
            limits.judged ? `${flow(limits.lowLpm)} to ${flow(limits.highLpm)}` : "not watched",
          ];
        })}
      />
    </Part>
  );
}
