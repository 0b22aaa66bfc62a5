import { View } from "@react-pdf/renderer";
import { ceilings } from "../core/ceilings/ceilings.ts";
import type { Pipe, SiteFile } from "../core/site-file/schema.ts";
import { showNumber, showQuantity } from "../core/units/units.ts";
import { DevicesPart, StationsPart } from "./device-list.tsx";
import { DrawingOf, type Drawn } from "./drawing.tsx";
import { Facts, Grid, Part, Title, Words } from "./parts.tsx";
import { SetupSheet } from "./setup-sheet.tsx";
import { BINDS, SOURCE_WORDS } from "./words.ts";

type Props = { site: SiteFile; date: string; drawing: Drawn; written: SiteFile };

/** The whole site as it stands, for whoever takes it over. @param written as its controllers take it */
export function AsBuilt({ site, date, drawing, written }: Props) {
  return (
    <>
      <Title>As-built book</Title>
      <Words>{[site.site.description, site.site.notes].filter(Boolean).join(". ")}</Words>
      <Facts
        of={[
          ["Stations", String(site.stations.length)],
          ["Controllers", String(site.controllers.length)],
          ["Time zone", site.site.timeZone],
          ["Position", positionOf(site)],
        ]}
      />
      <Part title="Drawing">
        <DrawingOf drawn={drawing} width={510} height={560} />
      </Part>
      <Supply site={site} />
      <Mains site={site} />
      <DevicesPart site={site} date={date} />
      <StationsPart site={site} />
      <Limits site={site} />
      <View break />
      <SetupSheet site={written} date={date} />
    </>
  );
}

function positionOf({ site }: SiteFile): string {
  const { latitudeDeg, longitudeDeg } = site;
  return latitudeDeg === undefined || longitudeDeg === undefined
    ? ""
    : `${latitudeDeg.toFixed(5)}, ${longitudeDeg.toFixed(5)}`;
}

function Supply({ site }: { site: SiteFile }) {
  const { units } = site.site;
  const most = new Map(ceilings(site).map((c) => [c.id, c]));
  const sources = new Map(site.sources.map((s) => [s.id, s.name]));
  const flow = (lpm: number | null | undefined): string =>
    lpm === null || lpm === undefined ? "" : showQuantity(lpm, "flow", units, 1);
  return (
    <>
      <Part title="Water sources">
        <Grid
          columns={[
            { head: "Source", share: 26 },
            { head: "Kind", share: 16 },
            { head: "Yield", share: 14, right: true },
            { head: "Static pressure", share: 16, right: true },
            { head: "What it is", share: 28 },
          ]}
          rows={site.sources.map((s) => [
            s.name,
            SOURCE_WORDS[s.kind],
            flow(s.yieldLpm),
            s.staticPressureKpa === undefined ? "" : showQuantity(s.staticPressureKpa, "pressure", units, 0),
            s.description ?? "",
          ])}
        />
      </Part>
      <Part title="Points of connection">
        <Grid
          columns={[
            { head: "Point of connection", share: 26 },
            { head: "Water from", share: 24 },
            { head: "Ceiling", share: 14, right: true },
            { head: "Bound by", share: 22 },
            { head: "Burst over", share: 14, right: true },
          ]}
          rows={site.pocs.map((p) => {
            const c = most.get(p.id);
            return [
              p.name,
              p.sourceIds.map((id) => sources.get(id) ?? id).join(", "),
              flow(c?.ceilingLpm),
              c?.boundBy ? BINDS[c.boundBy.rule] : "",
              flow(p.burstLimitLpm),
            ];
          })}
        />
      </Part>
    </>
  );
}

function Mains({ site }: { site: SiteFile }) {
  const { units } = site.site;
  const most = new Map(ceilings(site).map((c) => [c.id, c]));
  const names = new Map([...site.pocs, ...site.mainlines].map((e) => [e.id, e.name]));
  const pipe = (p: Pipe): string =>
    `${showQuantity(p.lengthM, "length", units, 0)} ${p.material} ${p.series} ${p.nominal}`;
  return (
    <Part title="Mainlines">
      <Grid
        columns={[
          { head: "Mainline", share: 24 },
          { head: "Fed by", share: 22 },
          { head: "Pipes", share: 32 },
          { head: "Ceiling", share: 13, right: true },
          { head: "Stations", share: 9, right: true },
        ]}
        rows={site.mainlines.map((m) => {
          const lpm = most.get(m.id)?.ceilingLpm;
          return [
            m.name,
            m.feedIds.map((id) => names.get(id) ?? id).join(", "),
            m.pipes.map(pipe).join("; "),
            lpm === null || lpm === undefined ? "" : showQuantity(lpm, "flow", units, 1),
            String(site.stations.filter((s) => s.mainlineId === m.id).length),
          ];
        })}
      />
    </Part>
  );
}

function Limits({ site }: { site: SiteFile }) {
  const { policy } = site;
  return (
    <Part title="Flow limits of the site">
      <Facts
        of={[
          ["Basis", policy.basis === "graded" ? "graded by the flow of the set" : "each station's own"],
          ["High", `${showNumber(policy.highPercent, 1)} % over`],
          ["Low", `${showNumber(policy.lowPercent, 1)} % under`],
          ["For", `${policy.persistenceS} s`],
        ]}
      />
      <Words>
        Points of connection and mainlines may have limits of their own; each station's stand with it above.
      </Words>
    </Part>
  );
}
