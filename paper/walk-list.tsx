import { setLimits } from "../core/judge/set-limits.ts";
import { policyOfSet } from "../core/judge/policy-of.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { showNumber, toShown, unitLabel } from "../core/units/units.ts";
import type { Words } from "./in-language.ts";
import { Grid, Part, Title, Words as Lines } from "./parts.tsx";

/** Every station of each controller in its order, with what it should take, and room for what was found. */
export function WalkList({ site, t }: { site: SiteFile; t: Words<"paper"> }) {
  const { units } = site.site;
  const w = waterworks(site);
  const flow = (lpm: number): string => showNumber(toShown(lpm, "flow", units), 1, 1);
  return (
    <>
      <Title>{t("walkTitle")}</Title>
      <Lines>{t("walkWords", { unit: unitLabel("flow", units) })}</Lines>
      {site.controllers.map((c) => (
        <Part key={c.id} title={c.name}>
          <Grid
            tall
            columns={[
              { head: t("station"), share: 24 },
              { head: t("expected"), share: 9, right: true },
              { head: t("between"), share: 14, right: true },
              { head: t("read"), share: 10 },
              { head: t("fine"), share: 6 },
              { head: t("found"), share: 34 },
            ]}
            rows={site.stations
              .map((s, i) => ({ s, i }))
              .filter(({ s }) => s.controllerId === c.id)
              .sort((a, b) => a.s.number - b.s.number)
              .map(({ s, i }) => {
                const limits = setLimits(policyOfSet(w, [i]), [s]);
                return [
                  `${s.number} ${s.name}${s.lockedOut ? ` (${t("lockedOut")})` : ""}`,
                  expectedFlow(s) ? flow(limits.expectedLpm) : t("notKnown"),
                  limits.judged ? t("to", { low: flow(limits.lowLpm), high: flow(limits.highLpm) }) : t("notWatched"),
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
