/** Small dense systems: symmetric ones by Cholesky's factor, general ones by elimination. Matrices are row-major. */
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

/**
 * As {@link cholesky}, for a large matrix with much nothing left of its first numbers: what lies before a row's first
 * number is passed over. The result is the same. Source: A. George and J. Liu, Computer Solution of Large Sparse
 * Positive Definite Systems, 1981 (the envelope method).
 */
export function choleskyOfEnvelope(a: Float64Array, n: number): boolean {
  const first = new Int32Array(n);
  for (let i = 0; i < n; i++) {
    let c = 0;
    while (c < i && a[i * n + c] === 0) c++;
    first[i] = c;
  }
  for (let i = 0; i < n; i++) {
    const row = i * n;
    for (let j = first[i]!; j < i; j++) {
      const other = j * n;
      let sum = a[row + j]!;
      for (let k = Math.max(first[i]!, first[j]!); k < j; k++) sum -= a[row + k]! * a[other + k]!;
      a[row + j] = sum / a[other + j]!;
    }
    let d = a[row + i]!;
    for (let k = first[i]!; k < i; k++) d -= a[row + k]! ** 2;
    if (!(d > 0)) return false;
    a[row + i] = Math.sqrt(d);
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

/** Inverse of a symmetric positive definite `n*n` matrix, or null. */
export function invertSymmetric(a: Float64Array, n: number): Float64Array | null {
  const l = a.slice();
  if (!cholesky(l, n)) return null;
  const out = new Float64Array(n * n);
  const column = new Float64Array(n);
  for (let j = 0; j < n; j++) {
    column.fill(0);
    column[j] = 1;
    choleskySolve(l, n, column);
    for (let i = 0; i < n; i++) out[i * n + j] = column[i]!;
  }
  return out;
}

/** The product of two `n*n` matrices. */
export function product(a: Float64Array, b: Float64Array, n: number): Float64Array {
  const out = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let k = 0; k < n; k++) {
      const f = a[i * n + k]!;
      if (f !== 0) for (let j = 0; j < n; j++) out[i * n + j]! += f * b[k * n + j]!;
    }
  return out;
}

/**
 * Solves a symmetric positive definite system in place; `a` holds `band + 1` diagonals, row i from its own rightwards.
 */
export function solveBanded(a: Float64Array, b: Float64Array, n: number, band: number): void {
  const w = band + 1;
  for (let i = 0; i < n; i++) {
    const pivot = Math.sqrt(Math.max(a[i * w]!, 1e-12));
    const end = Math.min(band, n - 1 - i);
    for (let k = 0; k <= end; k++) a[i * w + k]! /= pivot;
    b[i]! /= pivot;
    for (let j = 1; j <= end; j++) {
      const f = a[i * w + j]!;
      if (f === 0) continue;
      for (let k = j; k <= end; k++) a[(i + j) * w + k - j]! -= f * a[i * w + k]!;
      b[i + j]! -= f * b[i]!;
    }
  }
  for (let i = n - 1; i >= 0; i--) {
    let s = b[i]!;
    for (let k = 1; k <= Math.min(band, n - 1 - i); k++) s -= a[i * w + k]! * b[i + k]!;
    b[i] = s / a[i * w]!;
  }
}

/** Upper triangle of a symmetric 8x8 matrix, row by row, and back. */
export function triangle(m: Float64Array): number[] {
  const out: number[] = [];
  for (let i = 0; i < 8; i++) for (let j = i; j < 8; j++) out.push(m[i * 8 + j]!);
  return out;
}

/** A symmetric 8x8 matrix from the 36 numbers of {@link triangle}. */
export function fromTriangle(t: readonly number[]): Float64Array {
  const m = new Float64Array(64);
  for (let i = 0, k = 0; i < 8; i++) for (let j = i; j < 8; j++, k++) m[i * 8 + j] = m[j * 8 + i] = t[k]!;
  return m;
}
