import { setLimits } from "../core/judge/set-limits.ts";
import { policyOfSet } from "../core/judge/policy-of.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { showNumber, toShown, unitLabel } from "../core/units/units.ts";
import { Grid, Part, Title, Words } from "./parts.tsx";

/** Every station of each controller in its order, with what it should take, and room for what was found. */
export function WalkList({ site }: { site: SiteFile }) {
  const { units } = site.site;
  const w = waterworks(site);
  const flow = (lpm: number): string => showNumber(toShown(lpm, "flow", units), 1, 1);
  return (
    <>
      <Title>Walk list</Title>
      <Words>
        Flows in {unitLabel("flow", units)}. Keep clear of the heads when a station is opened, and nobody with a hand in
        a valve box.
      </Words>
      {site.controllers.map((c) => (
        <Part key={c.id} title={c.name}>
          <Grid
            tall
            columns={[
              { head: "Station", share: 24 },
              { head: "Expected", share: 9, right: true },
              { head: "Between", share: 14, right: true },
              { head: "Read", share: 10 },
              { head: "Fine", share: 6 },
              { head: "What was found", share: 34 },
            ]}
            rows={site.stations
              .map((s, i) => ({ s, i }))
              .filter(({ s }) => s.controllerId === c.id)
              .sort((a, b) => a.s.number - b.s.number)
              .map(({ s, i }) => {
                const limits = setLimits(policyOfSet(w, [i]), [s]);
                return [
                  `${s.number} ${s.name}${s.lockedOut ? " (locked out)" : ""}`,
                  expectedFlow(s) ? flow(limits.expectedLpm) : "not known",
                  limits.judged ? `${flow(limits.lowLpm)} to ${flow(limits.highLpm)}` : "not watched",
                  "",
                  "",
                  "",
                ];
              })}
          />
        </Part>
      ))}
    </>
  );
}
