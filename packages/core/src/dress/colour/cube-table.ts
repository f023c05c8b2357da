/**
 * Colour tables in the `.cube` text form: a curve per channel (1D) or a lattice (3D) with red changing fastest. In the
 * lattice a colour is read from the tetrahedron that it lies in, which keeps greys grey between the lattice's own
 * greys. Sources: the published .cube specification, version 1.0 (keywords, order, domain); J. M. Kasson et al.,
 * Performing color space conversions with three-dimensional linear interpolation, Journal of Electronic Imaging 4(3),
 * 1995 (tetrahedra).
 */
import { clamp } from '../../clamp';
import { CoreError } from '../../errors';

export interface CubeTable {
  readonly title: string;
  readonly dimensions: 1 | 3;
  /** entries along each axis */
  readonly size: number;
  readonly low: readonly [number, number, number];
  readonly high: readonly [number, number, number];
  /** RGB per entry */
  readonly values: Float32Array;
}

const LARGEST = { 1: 65536, 3: 129 } as const;

function fail(line: number, message: string): never {
  throw new CoreError('invalid', `Colour table, line ${line}: ${message}`);
}

function three(words: readonly string[], line: number): [number, number, number] {
  const v = words.map(Number);
  if (v.length !== 3 || !v.every(Number.isFinite))
    fail(line, `three numbers belong here, not "${words.join(' ').slice(0, 40)}".`);
  return v as [number, number, number];
}

/** A table while its lines are read. */
interface Reading {
  title: string;
  dimensions: 1 | 3 | null;
  size: number;
  low: [number, number, number];
  high: [number, number, number];
  values: Float32Array;
  filled: number;
}

function readSize(t: Reading, dimensions: 1 | 3, told: string | undefined, line: number): void {
  if (t.dimensions) fail(line, 'a second size; a table has one.');
  const size = Number(told);
  if (!Number.isSafeInteger(size) || size < 2 || size > LARGEST[dimensions])
    fail(line, `the size is "${told ?? ''}"; it must be a whole number from 2 to ${LARGEST[dimensions]}.`);
  t.dimensions = dimensions;
  t.size = size;
  t.values = new Float32Array(3 * size ** dimensions);
}

function readEntry(t: Reading, words: readonly string[], line: number): void {
  if (!t.dimensions) fail(line, 'numbers stand before LUT_1D_SIZE or LUT_3D_SIZE.');
  if (t.filled >= t.values.length) fail(line, `more than the ${t.values.length / 3} entries that the size asks for.`);
  t.values.set(three(words, line), t.filled);
  t.filled += 3;
}

function readLine(t: Reading, text: string, line: number): void {
  const [word, ...rest] = text.split(/\s+/) as [string, ...string[]];
  if (word === 'TITLE') t.title = text.slice(5).trim().replace(/^"|"$/g, '');
  else if (word === 'DOMAIN_MIN') t.low = three(rest, line);
  else if (word === 'DOMAIN_MAX') t.high = three(rest, line);
  else if (word === 'LUT_1D_SIZE') readSize(t, 1, rest[0], line);
  else if (word === 'LUT_3D_SIZE') readSize(t, 3, rest[0], line);
  else if (/^[A-Z_]/.test(word)) fail(line, `"${word.slice(0, 30)}" is not a keyword of a colour table.`);
  else readEntry(t, [word, ...rest], line);
}

/** @throws CoreError for a table without a size, with too few entries, or over no range */
function finished({ filled, ...t }: Reading): CubeTable {
  const { dimensions, values, low, high } = t;
  if (!dimensions)
    throw new CoreError('invalid', 'This is no colour table: it has no line LUT_1D_SIZE or LUT_3D_SIZE.');
  if (filled < values.length)
    throw new CoreError(
      'invalid',
      `The colour table ends after ${filled / 3} of ${values.length / 3} entries; it was cut off.`,
    );
  if (!high.every((v, c) => v > low[c]!))
    throw new CoreError('invalid', 'DOMAIN_MAX must lie above DOMAIN_MIN in every channel.');
  return { ...t, dimensions };
}

/** @throws CoreError `invalid` with the line and what is wrong there */
export function parseCube(text: string): CubeTable {
  const t: Reading = {
    title: '',
    dimensions: null,
    size: 0,
    low: [0, 0, 0],
    high: [1, 1, 1],
    values: new Float32Array(0),
    filled: 0,
  };
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  for (const [i, raw] of lines.entries()) {
    const line = raw.trim();
    if (line !== '' && !line.startsWith('#')) readLine(t, line, i + 1);
  }
  return finished(t);
}

/** Looks a colour up; what lies outside the domain takes its end. @param out receives R, G, B */
export function throughTable(t: CubeTable, r: number, g: number, b: number, out: Float32Array): void {
  const n = t.size - 1;
  const place = (v: number, c: number): number => clamp(((v - t.low[c]!) / (t.high[c]! - t.low[c]!)) * n, 0, n);
  const x = place(r, 0);
  const y = place(g, 1);
  const z = place(b, 2);
  const { values } = t;
  if (t.dimensions === 1) {
    for (let c = 0; c < 3; c++) {
      let p: number;
      if (c === 0) p = x;
      else if (c === 1) p = y;
      else p = z;
      const i = Math.min(n - 1, p | 0);
      const f = p - i;
      const k = i * 3 + c;
      out[c] = values[k]! + f * (values[k + 3]! - values[k]!);
    }
    return;
  }
  const ix = Math.min(n - 1, x | 0);
  const iy = Math.min(n - 1, y | 0);
  const iz = Math.min(n - 1, z | 0);
  const fx = x - ix;
  const fy = y - iy;
  const fz = z - iz;
  const sx = 3;
  const sy = 3 * t.size;
  const sz = 3 * t.size * t.size;
  const base = ix * sx + iy * sy + iz * sz;
  const far = base + sx + sy + sz;
  // From the near corner to the far one along the axes in falling order of their fractions: four corners, four weights.
  let first: number;
  let second: number;
  let a: number;
  let m: number;
  let w: number;
  if (fx >= fy) {
    if (fy >= fz) [first, second, a, m, w] = [sx, sx + sy, fx, fy, fz];
    else if (fx >= fz) [first, second, a, m, w] = [sx, sx + sz, fx, fz, fy];
    else [first, second, a, m, w] = [sz, sz + sx, fz, fx, fy];
  } else if (fz >= fy) [first, second, a, m, w] = [sz, sz + sy, fz, fy, fx];
  else if (fz >= fx) [first, second, a, m, w] = [sy, sy + sz, fy, fz, fx];
  else [first, second, a, m, w] = [sy, sy + sx, fy, fx, fz];
  for (let c = 0; c < 3; c++)
    out[c] =
      (1 - a) * values[base + c]! +
      (a - m) * values[base + first + c]! +
      (m - w) * values[base + second + c]! +
      w * values[far + c]!;
}
