/** Coefficients of the fitted polynomial, the constant first (Press et al., Numerical Recipes, 6.2: `erfc` by a Chebyshev fit). */
const FIT = [
  -1.26551223, 1.00002368, 0.37409196, 0.09678418, -0.18628806, 0.27886807, -1.13520398, 1.48851587, -0.82215223,
  0.17087277,
];

/** Share of a normal distribution beyond z standard deviations: right to 1.2e-7 of itself, however far out. */
export function normalTail(z: number): number {
  const x = Math.abs(z) / Math.SQRT2;
  const t = 1 / (1 + x / 2);
  const tail = (t / 2) * Math.exp(-x * x + FIT.reduceRight((sum, c) => sum * t + c, 0));
  return z >= 0 ? tail : 1 - tail;
}
