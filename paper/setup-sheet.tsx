import { setupSheet, type SetupProgram } from "../core/exports/setup-sheet.ts";
import { writtenDate } from "../core/dates/written.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { startsWords } from "../core/site-file/starts.ts";
import { showNumber, showQuantity, toShown, unitLabel } from "../core/units/units.ts";
import { Facts, Grid, Part, Title, Warning, Words } from "./parts.tsx";

const clock = (s: number): string => `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, "0")}`;

/** What someone keys in at each controller, as the setup sheet on Programs has it; as its kind of controller takes it where that is known. @param site rounded for its controllers */
export function SetupSheet({ site, date }: { site: SiteFile; date: string }) {
  const { units } = site.site;
  const write = (d: string): string => writtenDate(d, units);
  return (
    <>
      <Title>Setup sheet</Title>
      <Words>Times as on {write(date)}.</Words>
      {site.controllers.length === 0 && <Words>This site has no controller yet.</Words>}
      {site.controllers.map((c) => {
        const sheet = setupSheet(site, c, date, write);
        return (
          <Part key={c.id} title={c.name}>
            <Facts
              of={[
                ["Stations", String(sheet.stations.length)],
                ["At once on it", c.maxStationsAtOnce === undefined ? "" : String(c.maxStationsAtOnce)],
                [
                  "At once on the site",
                  site.site.maxStationsAtOnce === undefined ? "" : String(site.site.maxStationsAtOnce),
                ],
                ["Switched off", c.off ? "yes" : ""],
              ]}
            />
            {sheet.held !== "" && (
              <Warning>
                The whole site is {sheet.held}: nothing waters on {write(date)}.
              </Warning>
            )}
            {sheet.programs.length === 0 && <Words>No program runs on it.</Words>}
            {sheet.programs.map((p) => (
              <ProgramPart key={p.program.id} of={p} units={units} />
            ))}
          </Part>
        );
      })}
    </>
  );
}

function ProgramPart({ of, units }: { of: SetupProgram; units: SiteFile["site"]["units"] }) {
  const { program: p, rows } = of;
  return (
    <Part title={p.name}>
      <Facts
        of={[
          ["Starts", startsWords(p) || "none"],
          ["Days", of.days],
          ["Hours", of.windows],
          ["Stations at once", String(p.maxStationsAtOnce ?? 1)],
          ["Delay between, s", p.delayS ? String(p.delayS) : ""],
          ["Percent", of.percents || "100 %"],
          ["In use", of.holds || "yes"],
          ["Weather inputs", of.inputs],
        ]}
      />
      <Grid
        columns={[
          { head: "Order", share: 5, right: true },
          { head: "Station", share: 26 },
          { head: "Minutes", share: 8, right: true },
          { head: "Runs, min:s", share: 9, right: true },
          { head: "Cycles, min", share: 16 },
          { head: "Soak, min", share: 8, right: true },
          { head: `Flow, ${unitLabel("flow", units)}`, share: 12, right: true },
        ]}
        rows={[
          ...rows.map((r) => [
            String(r.order),
            `${r.number} ${r.name}`,
            String(r.minutes),
            clock(r.runsS),
            r.cycles,
            r.soakMin === null ? "" : String(Number(r.soakMin.toFixed(2))),
            r.flowLpm === null ? "" : showNumber(toShown(r.flowLpm, "flow", units), 1, 1),
          ]),
          // In the table: alone at the head of a page it would be of nothing.
          ["", `Total, ${showQuantity(of.litres, "volume", units)}`, "", clock(of.totalS), "", "", ""],
        ]}
      />
    </Part>
  );
}
