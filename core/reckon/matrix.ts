/**
 * Just enough of dense linear algebra for reckoning. A matrix is its rows one after the other in a Float64Array; sizes are passed along, nothing is checked.
 */
export type Matrix = Float64Array;

/** A at row i, column j of n columns. */
export const at = (a: Matrix, n: number, i: number, j: number): number => a[i * n + j] as number;

/**
 * Cholesky's lower triangle of a symmetric positive definite matrix, in place; above the diagonal everything is set to 0.
 *
 * @throws RangeError where it is not positive definite
 */
export function cholesky(a: Matrix, n: number): Matrix {
  for (let j = 0; j < n; j++) {
    let d = at(a, n, j, j);
    for (let k = 0; k < j; k++) d -= at(a, n, j, k) ** 2;
    if (!(d > 0)) throw new RangeError(`not positive definite at ${j}`);
    const root = Math.sqrt(d);
    a[j * n + j] = root;
    for (let i = j + 1; i < n; i++) {
      let s = at(a, n, i, j);
      const [ri, rj] = [i * n, j * n];
      for (let k = 0; k < j; k++) s -= (a[ri + k] as number) * (a[rj + k] as number);
      a[ri + j] = s / root;
    }
    for (let i = 0; i < j; i++) a[i * n + j] = 0;
  }
  return a;
}

/** L⁻¹ B in place: L lower n × n, B n × m. */
export function forward(l: Matrix, n: number, b: Matrix, m: number): Matrix {
  for (let i = 0; i < n; i++) {
    const row = i * m;
    for (let k = 0; k < i; k++) {
      const f = at(l, n, i, k);
      if (f === 0) continue;
      const other = k * m;
      for (let j = 0; j < m; j++) b[row + j] = (b[row + j] as number) - f * (b[other + j] as number);
    }
    const d = at(l, n, i, i);
    for (let j = 0; j < m; j++) b[row + j] = (b[row + j] as number) / d;
  }
  return b;
}

/** AᵀA of A, n × m: m × m. Rows of A that hold few figures cost little. */
export function gram(a: Matrix, n: number, m: number): Matrix {
  const g = new Float64Array(m * m);
  for (let r = 0; r < n; r++) {
    const row = r * m;
    for (let i = 0; i < m; i++) {
      const f = a[row + i] as number;
      if (f === 0) continue;
      for (let j = i; j < m; j++) g[i * m + j] = (g[i * m + j] as number) + f * (a[row + j] as number);
    }
  }
  for (let i = 0; i < m; i++) for (let j = 0; j < i; j++) g[i * m + j] = g[j * m + i] as number;
  return g;
}

/** A v: A n × m. */
export function times(a: Matrix, n: number, m: number, v: Matrix): Matrix {
  const out = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    let s = 0;
    const row = i * m;
    for (let j = 0; j < m; j++) s += (a[row + j] as number) * (v[j] as number);
    out[i] = s;
  }
  return out;
}
