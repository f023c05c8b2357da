/**
 * Cholesky factor of a symmetric positive definite matrix, in place in the lower triangle.
 * @param a row-major `n*n`; only the lower triangle is read
 * @returns false when the matrix is not positive definite (then `a` is spoilt)
 */
export function cholesky(a: Float64Array, n: number): boolean {
  for (let j = 0; j < n; j++) {
    let d = a[j * n + j]!;
    for (let k = 0; k < j; k++) d -= a[j * n + k]! ** 2;
    if (!(d > 0)) return false;
    const l = Math.sqrt(d);
    a[j * n + j] = l;
    for (let i = j + 1; i < n; i++) {
      let s = a[i * n + j]!;
      for (let k = 0; k < j; k++) s -= a[i * n + k]! * a[j * n + k]!;
      a[i * n + j] = s / l;
    }
  }
  return true;
}

/** Solves `L L' x = b` in place, with the factor that {@link cholesky} left in `l`. */
export function choleskySolve(l: Float64Array, n: number, b: Float64Array): void {
  for (let i = 0; i < n; i++) {
    let s = b[i]!;
    for (let k = 0; k < i; k++) s -= l[i * n + k]! * b[k]!;
    b[i] = s / l[i * n + i]!;
  }
  for (let i = n - 1; i >= 0; i--) {
    let s = b[i]!;
    for (let k = i + 1; k < n; k++) s -= l[k * n + i]! * b[k]!;
    b[i] = s / l[i * n + i]!;
  }
}

/** Gaussian elimination with partial pivoting; `a` is `n*n` row-major and spoilt; null when singular. */
export function solveLinear(a: Float64Array, b: Float64Array): Float64Array | null {
  const n = b.length;
  for (let c = 0; c < n; c++) {
    let p = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(a[r * n + c]!) > Math.abs(a[p * n + c]!)) p = r;
    const pivot = a[p * n + c]!;
    if (!(Math.abs(pivot) > 1e-12)) return null;
    if (p !== c) {
      for (let k = c; k < n; k++) {
        const t = a[c * n + k]!;
        a[c * n + k] = a[p * n + k]!;
        a[p * n + k] = t;
      }
      const t = b[c]!;
      b[c] = b[p]!;
      b[p] = t;
    }
    for (let r = c + 1; r < n; r++) {
      const f = a[r * n + c]! / pivot;
      if (f === 0) continue;
      for (let k = c; k < n; k++) a[r * n + k]! -= f * a[c * n + k]!;
      b[r]! -= f * b[c]!;
    }
  }
  for (let r = n - 1; r >= 0; r--) {
    let s = b[r]!;
    for (let k = r + 1; k < n; k++) s -= a[r * n + k]! * b[k]!;
    b[r] = s / a[r * n + r]!;
  }
  return b;
}
