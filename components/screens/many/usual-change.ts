import type { ManyChange, ManyKind } from "@/core/many/many-change";
import { INVENTED } from "@/core/profiles/profile";

/** Kinds that may be chosen out of nothing. */
export type ChosenKind = Exclude<ManyKind, "programAs" | "controllersAs">;
type Usual = { [K in ChosenKind]: (today: string) => Extract<ManyChange, { kind: K }> };

const USUAL: Usual = {
  holdDays: () => ({ kind: "holdDays", days: 3 }),
  holdUntil: (until) => ({ kind: "holdUntil", until }),
  resume: () => ({ kind: "resume" }),
  percent: () => ({ kind: "percent", percent: 100 }),
  percentBy: () => ({ kind: "percentBy", percent: -10 }),
  monthPercent: (today) => ({ kind: "monthPercent", month: Number(today.slice(5, 7)), percent: 100 }),
  programInUse: () => ({ kind: "programInUse", program: "", inUse: false }),
  programPercent: () => ({ kind: "programPercent", program: "", percent: 100 }),
  programHold: () => ({ kind: "programHold", program: "", days: 3 }),
  starts: () => ({ kind: "starts", minutes: 60 }),
  inputBypassed: () => ({ kind: "inputBypassed", input: "all", bypassed: false }),
  profile: () => ({ kind: "profile", profileId: INVENTED[0]?.id ?? "", name: INVENTED[0]?.name ?? "" }),
  waterPrice: () => ({ kind: "waterPrice", source: "all", perM3: 1, currency: "USD" }),
  startingPoint: () => ({ kind: "startingPoint", school: "steady" }),
  limits: () => ({ kind: "limits", highPercent: 25, lowPercent: 30, persistenceS: 60 }),
};

/** A change of a kind to begin with. */
export const usual = (kind: ChosenKind, today: string): ManyChange => USUAL[kind](today);
