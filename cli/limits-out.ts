import { type LimitsOf, limitsOf } from "../core/limits/budget/take.ts";
import type { BudgetPoint, LimitsByBudget } from "../core/limits/budget/budget.ts";

/** What `presa limits` writes (site-file#additions): every point with its figures and its settings, mains and stations only where they have something of their own. */
export function limitsOut({ now, best, curve, schools }: LimitsByBudget) {
  return {
    now: pointOut(now),
    best: best && pointOut(best),
    curve: curve.map(pointOut),
    schools: schools.map((s) => ({ id: s.id, ...pointOut(s) })),
  };
}

function pointOut({ site, figures }: BudgetPoint) {
  return { ...figures, ...settingsOut(limitsOf(site)) };
}

/** Limits as they are set: mains and stations only where they have something of their own. */
export function settingsOut({ policy, pocs, mainlines, stations }: LimitsOf) {
  const perMain = mainlines.flatMap(({ id, policy: own, holdOffS }) =>
    own || holdOffS !== undefined ? [{ mainlineId: id, ...own, ...(holdOffS === undefined ? {} : { holdOffS }) }] : [],
  );
  const perPoc = pocs.flatMap(({ id, policy: own }) => (own ? [{ pocId: id, ...own }] : []));
  const perStation = stations.flatMap(({ id, ...own }) =>
    Object.keys(own).length > 0 ? [{ stationId: id, ...own }] : [],
  );
  return {
    policy,
    ...(perPoc.length > 0 ? { perPoc } : {}),
    ...(perMain.length > 0 ? { perMain } : {}),
    ...(perStation.length > 0 ? { perStation } : {}),
  };
}
