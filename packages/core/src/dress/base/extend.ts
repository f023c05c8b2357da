/** Morphology of one-channel pictures: what is large grows, or shrinks, by so many px. */
/** `n` values from a place on, `stride` apart. */
interface Line {
  readonly at: number;
  readonly n: number;
  readonly stride: number;
}

/** How far is looked, for the largest (1) or smallest (-1), and room for a line. */
interface Reach {
  readonly r: number;
  readonly sign: 1 | -1;
  readonly up: Float32Array;
  readonly down: Float32Array;
}

/**
 * Along one line of `n` values, `stride` apart: the largest within `r` to each side, in blocks of 2 r + 1 so that the
 * work does not grow with r (M. van Herk 1992; J. Gil and M. Werman 1993).
 */
function largestAlong(data: Float32Array, { at, n, stride }: Line, { r, sign, up, down }: Reach): void {
  const block = 2 * r + 1;
  const padded = n + 2 * r;
  const low = -Infinity;
  for (let i = 0; i < padded; i++) {
    const v = i >= r && i < n + r ? sign * data[at + (i - r) * stride]! : low;
    const before = i % block === 0 ? low : up[i - 1]!;
    up[i] = v > before ? v : before;
  }
  for (let i = padded - 1; i >= 0; i--) {
    const v = i >= r && i < n + r ? sign * data[at + (i - r) * stride]! : low;
    const after = i === padded - 1 || (i + 1) % block === 0 ? low : down[i + 1]!;
    down[i] = v > after ? v : after;
  }
  for (let i = 0; i < n; i++) data[at + i * stride] = sign * Math.max(down[i]!, up[i + 2 * r]!);
}

/**
 * Largest (or smallest) value within a distance along one axis, then the other, in place; between whole px by both their
 * shares. @param radius px
 */
export function extend(data: Float32Array, width: number, height: number, radius: number, largest: boolean): void {
  const whole = Math.floor(radius);
  const part = radius - whole;
  if (part < 0.01) return extendBy(data, width, height, whole, largest);
  const less = data.slice();
  extendBy(less, width, height, whole, largest);
  extendBy(data, width, height, whole + 1, largest);
  for (let i = 0; i < data.length; i++) data[i] = less[i]! + part * (data[i]! - less[i]!);
}

/** As {@link extend} by a whole number of px, in place. */
export function extendBy(data: Float32Array, width: number, height: number, r: number, largest: boolean): void {
  if (r < 1) return;
  const room = Math.max(width, height) + 2 * r;
  const reach = { r, sign: largest ? 1 : -1, up: new Float32Array(room), down: new Float32Array(room) } as const;
  for (let y = 0; y < height; y++) largestAlong(data, { at: y * width, n: width, stride: 1 }, reach);
  for (let x = 0; x < width; x++) largestAlong(data, { at: x, n: height, stride: width }, reach);
}
