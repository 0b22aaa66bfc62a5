import { sweepFaults } from "../core/bench/sweep.ts";
import { aftermath } from "../core/bench/aftermath.ts";
import { simulate } from "../core/bench/simulate.ts";
import { flowMoments, planOf, playNight } from "../core/dispatch/plan.ts";
import { adviseDrill, beginDrill } from "../core/drill/drill.ts";
import { rehearseLearning } from "../core/learn/rehearse.ts";
import { comparedSchools, policyFrom } from "../core/limits/advice.ts";
import { comparePolicies } from "../core/limits/compare.ts";
import { SCHOOLS } from "../core/limits/schools.ts";
import { remediesFor } from "../core/limits/remedies.ts";
import { waterworks } from "../core/network/waterworks.ts";
import { betterSite } from "../core/optimize/better-night.ts";
import { outlook } from "../core/season/outlook.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { nightSummary } from "../core/summary/night-summary.ts";
import type { ComputeAnswer, ComputeRequest } from "./messages.ts";

/** Stations whose break would cost most first. */
function largestFirst(site: SiteFile, ids: string[]): string[] {
  const flow = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  return [...ids].sort((a, b) => (flow.get(b) ?? 0) - (flow.get(a) ?? 0));
}

/** Heavy work off the page's thread: plans, summaries and bench nights. */
self.onmessage = async ({ data }: MessageEvent<ComputeRequest>) => {
  const answer = (message: ComputeAnswer): void => self.postMessage(message);
  try {
    switch (data.kind) {
      case "night": {
        const w = waterworks(data.site);
        const night = playNight(w, data.date);
        const plan = planOf(w, night);
        answer({
          id: data.id,
          kind: "night",
          plan,
          moments: flowMoments(w, night, [...night.runs]),
          summary: nightSummary(data.site, data.date, plan),
        });
        return;
      }
      case "pressures": {
        const { pressureStudy } = await import("../core/hydraulics/pressures.ts");
        const { pressureFindings } = await import("../core/check/pressure.ts");
        const study = await pressureStudy(data.site, data.date);
        answer({
          id: data.id,
          kind: "pressures",
          result: { study, findings: await pressureFindings(data.site, study) },
        });
        return;
      }
      case "better": {
        const until = performance.now() + 1000 * data.seconds;
        let tries = 0;
        let makespanS = 0;
        let told = 0;
        const best = betterSite(data.site, data.date, {
          seed: 1,
          allowed: data.allowed,
          shouldStop: () => performance.now() >= until,
          onBetter: (site, score, n) => {
            tries = n;
            makespanS = score[1];
            // Ten times a second is as often as anyone can read.
            if (performance.now() - told < 100) return;
            told = performance.now();
            answer({ id: data.id, kind: "better", result: { site, makespanS, tries, done: false } });
          },
        });
        answer({ id: data.id, kind: "better", result: { site: best, makespanS, tries, done: true } });
        return;
      }
      case "whatElse": {
        const { date, faults, seed, exact } = data;
        const policies = [
          { name: "as it stands", policy: data.site.policy },
          ...SCHOOLS.map((s) => ({ name: s.id, policy: policyFrom(data.site, s) })),
        ];
        const compared = comparePolicies(data.site, {
          date,
          faults,
          policies,
          seed,
          exact,
          onProgress: (share) => {
            answer({ id: data.id, kind: "progress", share: 0.9 * share });
            return true;
          },
        });
        const [night, calm] = [
          simulate(data.site, { date, faults, seed, exact }),
          simulate(data.site, { date, seed, exact }),
        ];
        if (compared.ok && night.ok && calm.ok)
          answer({
            id: data.id,
            kind: "whatElse",
            result: { aftermath: aftermath(night.result, calm.result), rows: compared.rows },
          });
        else
          answer({
            id: data.id,
            kind: "failed",
            message: "problem" in compared ? compared.problem.message : "Cancelled.",
          });
        return;
      }
      case "drillAdvice": {
        const drill = beginDrill(data.site, data.date, data.seed);
        answer({
          id: data.id,
          kind: "drillAdvice",
          result:
            drill &&
            adviseDrill(drill, data.steps, (share) => {
              answer({ id: data.id, kind: "progress", share });
              return true;
            }),
        });
        return;
      }
      case "sweep":
        sweepFaults(data.site, {
          date: data.date,
          kinds: data.kinds,
          policies: data.policies,
          subjectIds: data.subjectIds,
          onSubject: (cells) => {
            answer({ id: data.id, kind: "swept", cells });
            return true;
          },
        });
        answer({ id: data.id, kind: "sweep", result: null });
        return;
      case "judgement": {
        const found = comparedSchools(data.site, data.date, {
          onProgress: (share) => {
            answer({ id: data.id, kind: "progress", share: 0.9 * share });
            return true;
          },
        });
        if (!found) return;
        const unseen = found.rows[0]?.figures.lateralNever ?? [];
        answer({
          id: data.id,
          kind: "judgement",
          result: {
            rows: found.rows,
            advice: found.advice,
            remedies: remediesFor(found.night, data.site.policy, largestFirst(data.site, unseen).slice(0, 10)),
          },
        });
        return;
      }
      case "rehearse":
        answer({ id: data.id, kind: "rehearse", result: rehearseLearning(data.site, data.options) });
        return;
      case "outlook":
        answer({
          id: data.id,
          kind: "outlook",
          result: outlook(data.site, data.first, data.days, (done) => {
            answer({ id: data.id, kind: "progress", share: done / data.days });
          }),
        });
        return;
      case "simulate": {
        const outcome = simulate(data.site, {
          date: data.date,
          faults: data.faults,
          seed: data.seed,
          exact: data.exact,
          onProgress: (share) => {
            answer({ id: data.id, kind: "progress", share });
            return true;
          },
        });
        if (outcome.ok) answer({ id: data.id, kind: "simulate", result: outcome.result });
        else
          answer({
            id: data.id,
            kind: "failed",
            message: "problem" in outcome ? outcome.problem.message : "Cancelled.",
          });
        return;
      }
    }
  } catch (error) {
    answer({ id: data.id, kind: "failed", message: error instanceof Error ? error.message : String(error) });
  }
};
