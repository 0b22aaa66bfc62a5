/** Who found it right, when, and how: the evidence that a fitting is sealed with. */
export type Seal = { how: string; at: string; by: string };
/** How much is known of a step: nothing yet; entered, so far; proven, with its seal; proven once, but something it rests on has changed. */
export type Fitting = {
  state: "empty" | "half" | "full" | "cracked";
  /** How far what is needed is there, 0 to 1. */
  fill: number;
  why: string;
  seal: Seal | null;
  /** What to do next; null when the step is done. */
  next: Next | null;
};
/** What to do, in words that go on from "Next:", and where: a screen of the site with its view or what is chosen there. */
export type Next = { words: string; at: string };

export const empty = (why: string, next: Next): Fitting => ({ state: "empty", fill: 0, why, seal: null, next });
export const half = (why: string, fill: number, next: Next | null): Fitting => ({
  state: "half",
  fill: Math.min(0.9, Math.max(0.15, fill)),
  why,
  seal: null,
  next,
});
export const full = (seal: Seal): Fitting => ({ state: "full", fill: 1, why: seal.how, seal, next: null });
export const cracked = (why: string, seal: Seal | null, next: Next): Fitting => ({
  state: "cracked",
  fill: 1,
  why,
  seal,
  next,
});
export const to = (at: string, words: string): Next => ({ at, words });
