import type { SiteFile } from "@/core/site-file/schema";
import { clean } from "@/core/site-file/patch";

export type Plan = NonNullable<SiteFile["plans"]>[number];

const changePlans =
  (change: (plans: Plan[]) => Plan[]) =>
  (file: SiteFile): SiteFile => {
    const plans = change(file.plans ?? []);
    return clean<SiteFile>({ ...file, plans: plans.length > 0 ? plans : undefined });
  };
const changePlan = (planId: string, change: (plan: Plan) => Plan) =>
  changePlans((plans) => plans.map((p) => (p.id === planId ? change(p) : p)));
const within = (part: number): number => Math.round(Math.min(1, Math.max(0, part)) * 1e5) / 1e5;

/** A picture that is kept beside the site becomes a plan of it. */
export const addPlan = (named: { id: string; name: string }) =>
  changePlans((plans) => [...plans, { ...named, pins: [] }]);
export const dropPlan = (planId: string) => changePlans((plans) => plans.filter((p) => p.id !== planId));
export const namePlan = (planId: string, name: string) =>
  changePlan(planId, (p) => ({ ...p, name: name.trim() || p.name }));

/** Where a piece is on the plan, in parts of its width and height. */
export const setPin = (planId: string, pieceId: string, x: number, y: number) =>
  changePlan(planId, (p) => ({
    ...p,
    pins: [...p.pins.filter((pin) => pin.id !== pieceId), { id: pieceId, x: within(x), y: within(y) }],
  }));
export const dropPin = (planId: string, pieceId: string) =>
  changePlan(planId, (p) => ({ ...p, pins: p.pins.filter((pin) => pin.id !== pieceId) }));
