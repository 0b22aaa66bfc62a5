/** A chi-squared quantile by Wilson and Hilferty's approximation; `z` of the normal distribution. */
const chiSquared = (df: number, z: number): number => df * (1 - 2 / (9 * df) + z * Math.sqrt(2 / (9 * df))) ** 3;
const Z95 = 1.959964;

/** 95 % interval of a Poisson mean of which `count` were seen (need not be whole), exact but for the approximation of χ². */
export function poisson95(count: number): [number, number] {
  if (count <= 0) return [0, 3.688879];
  return [Math.max(0, chiSquared(2 * count, -Z95) / 2), chiSquared(2 * (count + 1), Z95) / 2];
}

/** How clustered trips are taken to be where none was seen. */
const UNSEEN_CLUSTER = 2;

/**
 * 95 % interval of how many trips so many nights bring, from the trips of each: a night whose stations are off trips again and again, so trips are no
 * Poisson count. Their variance over their mean says by how much (quasi-Poisson), widened while few nights say it.
 *
 * @param counts trips of each night
 * @returns of all these nights together
 */
export function tripInterval(counts: readonly number[]): [number, number] {
  const nights = counts.length;
  const sum = counts.reduce((a, b) => a + b, 0);
  const struck = counts.filter((c) => c > 0).length;
  const mean = sum / nights;
  const variance = counts.reduce((a, c) => a + (c - mean) ** 2, 0) / Math.max(1, nights - 1);
  const cluster = sum === 0 ? UNSEEN_CLUSTER : Math.max(1, variance / mean) * (1 + 1 / struck);
  const [low, high] = poisson95(sum / cluster);
  return [low * cluster, high * cluster];
}
