/** Solves a symmetric positive definite system in place (Cholesky); the answer is left in `right`. */
export function solveSymmetric(matrix: Float64Array, right: Float64Array, n: number): void {
  for (let j = 0; j < n; j++) {
    for (let k = 0; k < j; k++) {
      const f = matrix[j * n + k] as number;
      if (f === 0) continue;
      for (let i = j; i < n; i++) matrix[i * n + j] = (matrix[i * n + j] as number) - (matrix[i * n + k] as number) * f;
    }
    const root = Math.sqrt(Math.max(matrix[j * n + j] as number, 1e-18));
    for (let i = j; i < n; i++) matrix[i * n + j] = (matrix[i * n + j] as number) / root;
  }
  for (let i = 0; i < n; i++) {
    let sum = right[i] as number;
    for (let k = 0; k < i; k++) sum -= (matrix[i * n + k] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * n + i] as number);
  }
  for (let i = n - 1; i >= 0; i--) {
    let sum = right[i] as number;
    for (let k = i + 1; k < n; k++) sum -= (matrix[k * n + i] as number) * (right[k] as number);
    right[i] = sum / (matrix[i * n + i] as number);
  }
}
