/** Measures of the jaw's rows and head, px. */
export const ROW = 26;
export const TOP = 58;

const LO = Math.log(0.35);
const HI = Math.log(2.2);
const [LEAST, MOST] = [0.351, 2.199];

/** Columns left and right of the log scale, for a width. Names give way first. */
export type JawScale = {
  width: number;
  x0: number;
  x1: number;
  expectedX: number;
  belowX: number;
  aboveX: number;
  watchedX: number;
  unseenX: number;
  nameChars: number;
  xOf: (ratio: number) => number;
  ratioOf: (x: number) => number;
};

export function jawScale(width: number): JawScale {
  const name = Math.max(118, Math.min(190, width * 0.16));
  const expectedX = name + 62;
  const belowX = expectedX + 62;
  const x0 = belowX + 14;
  const unseenX = width - 84;
  const watchedX = unseenX - 12;
  const aboveX = watchedX - 58;
  const x1 = aboveX - 58;
  return {
    width,
    x0,
    x1,
    expectedX,
    belowX,
    aboveX,
    watchedX,
    unseenX,
    nameChars: Math.floor((name - 30) / 6.1),
    xOf: (ratio) => x0 + ((Math.log(Math.max(LEAST, Math.min(MOST, ratio))) - LO) / (HI - LO)) * (x1 - x0),
    ratioOf: (x) => Math.exp(LO + ((x - x0) / (x1 - x0)) * (HI - LO)),
  };
}

/** The narrowest at which nothing runs into its neighbour, px. */
export const NARROWEST = 720;
/** Ratios that both ends of the scale still show. */
export const inScale = { least: LEAST, most: MOST };

/** In which company a station is judged: by itself, in the set of the plan where its break stands out most, in the largest. */
export type Company = "alone" | "best" | "fullest";
