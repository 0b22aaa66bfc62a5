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
  const perMain = site.mainlines.flatMap((m) =>
    m.policy || m.holdOffS !== undefined
      ? [{ mainlineId: m.id, ...m.policy, ...(m.holdOffS === undefined ? {} : { holdOffS: m.holdOffS }) }]
      : [],
  );
  const perStation = site.stations.flatMap(({ id, highPercent, lowPercent }) =>
    highPercent === undefined && lowPercent === undefined
      ? []
      : [
          {
            stationId: id,
            ...(highPercent === undefined ? {} : { highPercent }),
            ...(lowPercent === undefined ? {} : { lowPercent }),
          },
        ],
  );
  return {
    ...figures,
    policy: site.policy,
    ...(perMain.length > 0 ? { perMain } : {}),
    ...(perStation.length > 0 ? { perStation } : {}),
  };
}
