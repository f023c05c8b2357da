/**
 * The hot loops of following as WASM with SIMD (AssemblyScript). Each does what a function of the same purpose in
 * `../src` does in plain TypeScript, which stays the tests' reference and the way without WASM. Pointers are byte
 * addresses of this module's memory; the caller lays it out (`../src/image/kernels.ts`).
 */

/** `n` bytes to floats. */
export function widen8(from: usize, to: usize, n: i32): void {
  let i = 0;
  for (; i + 16 <= n; i += 16) {
    const v = v128.load(from + i);
    const lo = i16x8.extend_low_i8x16_u(v);
    const hi = i16x8.extend_high_i8x16_u(v);
    const at = to + ((<usize>i) << 2);
    v128.store(at, f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(lo)));
    v128.store(at, f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(lo)), 16);
    v128.store(at, f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(hi)), 32);
    v128.store(at, f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(hi)), 48);
  }
  for (; i < n; i++) store<f32>(to + ((<usize>i) << 2), <f32>load<u8>(from + i));
}

/** `n` 16-bit values to floats of 0 to 255. */
export function widen16(from: usize, to: usize, n: i32): void {
  const scale = f32x4.splat(1.0 / 257.0);
  let i = 0;
  for (; i + 8 <= n; i += 8) {
    const v = v128.load(from + ((<usize>i) << 1));
    const at = to + ((<usize>i) << 2);
    v128.store(at, f32x4.mul(scale, f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v))));
    v128.store(at, f32x4.mul(scale, f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_u(v))), 16);
  }
  for (; i < n; i++) store<f32>(to + ((<usize>i) << 2), <f32>load<u16>(from + ((<usize>i) << 1)) / <f32>257.0);
}

/** Half the width and height of floats, weighed 1 3 3 1; `row` has room for `width` + 8 floats. */
export function halve(from: usize, width: i32, height: i32, to: usize, row: usize): void {
  const halfWidth = (width + 1) >> 1;
  const halfHeight = (height + 1) >> 1;
  const three = f32x4.splat(3.0);
  const eighth = f32x4.splat(0.125);
  const t = row + 16;
  for (let y = 0; y < halfHeight; y++) {
    const at = 2 * y;
    const last = height - 1;
    const a = from + ((<usize>(max(0, at - 1) * width)) << 2);
    const b = from + ((<usize>(min(last, at) * width)) << 2);
    const c = from + ((<usize>(min(last, at + 1) * width)) << 2);
    const d = from + ((<usize>(min(last, at + 2) * width)) << 2);
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const o = (<usize>x) << 2;
      v128.store(
        t + o,
        f32x4.mul(
          eighth,
          f32x4.add(
            f32x4.add(v128.load(a + o), v128.load(d + o)),
            f32x4.mul(three, f32x4.add(v128.load(b + o), v128.load(c + o))),
          ),
        ),
      );
    }
    for (; x < width; x++) {
      const o = (<usize>x) << 2;
      store<f32>(
        t + o,
        <f32>0.125 * (load<f32>(a + o) + load<f32>(d + o) + <f32>3.0 * (load<f32>(b + o) + load<f32>(c + o))),
      );
    }
    // Borders repeat: what an odd width or the last pair needs lies behind the row.
    store<f32>(t - 4, load<f32>(t));
    const end = load<f32>(t + ((<usize>(width - 1)) << 2));
    store<f32>(t + ((<usize>width) << 2), end);
    store<f32>(t + ((<usize>width) << 2), end, 4);
    const out = to + ((<usize>(y * halfWidth)) << 2);
    let i = 0;
    for (; i + 4 <= halfWidth && 2 * i + 10 <= width; i += 4) {
      const p = t + ((<usize>i) << 3);
      const before = v128.shuffle<f32>(v128.load(p - 4), v128.load(p + 12), 0, 2, 4, 6);
      const even = v128.shuffle<f32>(v128.load(p), v128.load(p + 16), 0, 2, 4, 6);
      const odd = v128.shuffle<f32>(v128.load(p), v128.load(p + 16), 1, 3, 5, 7);
      const after = v128.shuffle<f32>(v128.load(p + 8), v128.load(p + 24), 0, 2, 4, 6);
      v128.store(
        out + ((<usize>i) << 2),
        f32x4.mul(eighth, f32x4.add(f32x4.add(before, after), f32x4.mul(three, f32x4.add(even, odd)))),
      );
    }
    for (; i < halfWidth; i++) {
      const p = t + ((<usize>i) << 3);
      store<f32>(
        out + ((<usize>i) << 2),
        <f32>0.125 * (load<f32>(p - 4) + load<f32>(p + 8) + <f32>3.0 * (load<f32>(p) + load<f32>(p + 4))),
      );
    }
  }
}

/** Weights of cubic convolution (R. Keys 1981, a = -1/2) of the four neighbours around a share `t` of their middle. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function keys(t: f32): v128 {
  const v = f32x4.splat(t);
  return f32x4.add(
    f32x4(0.0, 1.0, 0.0, 0.0),
    f32x4.mul(
      v,
      f32x4.add(
        f32x4(-0.5, 0.0, 0.5, 0.0),
        f32x4.mul(v, f32x4.add(f32x4(1.0, -2.5, 2.0, -0.5), f32x4.mul(v, f32x4(-0.5, 1.5, -1.5, 0.5)))),
      ),
    ),
  );
}

// @ts-ignore: a decorator of AssemblyScript
@inline
function sum(v: v128): f32 {
  const two = f32x4.add(v, v128.shuffle<f32>(v, v, 2, 3, 0, 1));
  return f32x4.extract_lane(f32x4.add(two, v128.shuffle<f32>(two, two, 1, 0, 3, 2)), 0);
}

// @ts-ignore: a decorator of AssemblyScript
@inline
function four8(at: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at))));
}

// @ts-ignore: a decorator of AssemblyScript
@inline
function four16(at: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(v128.load64_zero(at)));
}

/** Added to a number it leaves its 16 binary places in the low bits: a conversion without the checks that one brings. */
const PLACES16: f64 = 6755399441055744.0;

/** {@link keys} for every 1024th of a px, which is near enough: reading them is quicker than working them out. */
const KEYS: usize = memory.data(1025 * 16, 16);
for (let i = 0; i <= 1024; i++) v128.store(KEYS + ((<usize>i) << 4), keys(<f32>i / <f32>1024));

/** The weights of a coordinate with 16 binary places. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function keysAt(v: i32): v128 {
  return v128.load(KEYS + ((<usize>(((v & 0xffff) + 32) >> 6)) << 4));
}

/** Where a place of the ideal picture (from its middle, in half widths) lies behind a lens, with 16 binary places. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function bentPlace(dx: f64, dy: f64, radial: f64, half: f64, middle: f64): v128 {
  const k = 1.0 + radial * (dx * dx + dy * dy);
  const at = f64x2.replace_lane(f64x2.splat(half - 0.5 + half * dx * k), 1, middle - 0.5 + half * dy * k);
  return f64x2.mul(f64x2.splat(65536.0), at);
}

/** Four rows as one, by the weights of each. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function rows(a: v128, b: v128, c: v128, d: v128, w: v128): v128 {
  const upper = f32x4.add(
    f32x4.mul(a, v128.shuffle<f32>(w, w, 0, 0, 0, 0)),
    f32x4.mul(b, v128.shuffle<f32>(w, w, 1, 1, 1, 1)),
  );
  const lower = f32x4.add(
    f32x4.mul(c, v128.shuffle<f32>(w, w, 2, 2, 2, 2)),
    f32x4.mul(d, v128.shuffle<f32>(w, w, 3, 3, 3, 3)),
  );
  return f32x4.add(upper, lower);
}

/**
 * `n` px of row `y`, from `x0` on, of the ideal picture behind a lens with one radial term. `bytes` a sample, 1 or 2.
 */
export function straighten(
  frame: usize,
  bytes: i32,
  width: i32,
  height: i32,
  radial: f64,
  x0: i32,
  y: i32,
  n: i32,
  to: usize,
): void {
  const half = <f64>width * 0.5;
  const middle = <f64>height * 0.5;
  const dy = (<f64>y + 0.5 - middle) / half;
  const step = 1.0 / half;
  const first = (<f64>x0 + 0.5 - half) * step;
  // A polynomial of third degree by its differences: three additions a px.
  let at = bentPlace(first, dy, radial, half, middle);
  const second = bentPlace(first + step, dy, radial, half, middle);
  const third = bentPlace(first + 2.0 * step, dy, radial, half, middle);
  const fourth = bentPlace(first + 3.0 * step, dy, radial, half, middle);
  let d1 = f64x2.sub(second, at);
  const next = f64x2.sub(third, second);
  let d2 = f64x2.sub(next, d1);
  const d3 = f64x2.sub(f64x2.sub(f64x2.sub(fourth, third), next), d2);
  const places = f64x2.splat(PLACES16);
  // At both ends nothing of a pixel is left over.
  const low = i32x4.splat(65536);
  const high = i32x4.replace_lane(i32x4.splat((width - 3) << 16), 2, (height - 3) << 16);
  const scale: f32 = bytes === 2 ? <f32>(1.0 / 257.0) : <f32>1.0;
  const line = <usize>(width * bytes);
  for (let i = 0; i < n; i++) {
    const c = i32x4.min_s(i32x4.max_s(f64x2.add(at, places), low), high);
    at = f64x2.add(at, d1);
    d1 = f64x2.add(d1, d2);
    d2 = f64x2.add(d2, d3);
    const sx = i32x4.extract_lane(c, 0);
    const sy = i32x4.extract_lane(c, 2);
    const p = frame + <usize>(((sy >> 16) - 1) * width + (sx >> 16) - 1) * <usize>bytes;
    const v =
      bytes === 1
        ? rows(four8(p), four8(p + line), four8(p + 2 * line), four8(p + 3 * line), keysAt(sy))
        : rows(four16(p), four16(p + line), four16(p + 2 * line), four16(p + 3 * line), keysAt(sy));
    store<f32>(to + ((<usize>i) << 2), scale * sum(f32x4.mul(v, keysAt(sx))));
  }
}

/** A coordinate with 24 binary places, without the checks that every conversion of a float brings. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function fixed(v: f64): i64 {
  return <i64>Math.round(v * 16777216.0);
}

/**
 * Light on `taps` points (bx, by) + t (sx, sy), each the mean of `lines` points (tx, ty) apart; the caller made sure
 * that all lie inside.
 */
export function profile(
  image: usize,
  width: i32,
  bx: f64,
  by: f64,
  sx: f64,
  sy: f64,
  tx: f64,
  ty: f64,
  lines: i32,
  taps: i32,
  to: usize,
): void {
  const mean = f32x4.splat(<f32>1.0 / <f32>lines);
  const c1 = f32x4.splat(0.012522878);
  const c2 = f32x4.splat(0.682171111 / 255.0);
  const c3 = f32x4.splat(0.305306011 / 65025.0);
  const line = (<usize>width) << 2;
  const unit: f32 = 1.0 / 16777216.0;
  const flip = f32x4(-1.0, 1.0, -1.0, 1.0);
  const left = f32x4(1.0, 0.0, 1.0, 0.0);
  const turn = f32x4(-1.0, -1.0, 1.0, 1.0);
  const top = f32x4(1.0, 1.0, 0.0, 0.0);
  const stepX = fixed(sx);
  const stepY = fixed(sy);
  const lineX = fixed(tx);
  const lineY = fixed(ty);
  let x0 = fixed(bx);
  let y0 = fixed(by);
  for (let t = 0; t < taps; t++, x0 += stepX, y0 += stepY) {
    let total = f32x4.splat(0);
    let x = x0;
    let y = y0;
    for (let l = 0; l < lines; l++, x += lineX, y += lineY) {
      const p = image + ((<usize>(<i32>(y >> 24) * width + <i32>(x >> 24))) << 2);
      const v = v128.load64_lane(p + line, v128.load64_zero(p), 1);
      const wx = f32x4.add(left, f32x4.mul(flip, f32x4.splat(unit * <f32>((<i32>x) & 0xffffff))));
      const wy = f32x4.add(top, f32x4.mul(turn, f32x4.splat(unit * <f32>((<i32>y) & 0xffffff))));
      total = f32x4.add(
        total,
        f32x4.mul(f32x4.mul(v, f32x4.add(c1, f32x4.mul(v, f32x4.add(c2, f32x4.mul(v, c3))))), f32x4.mul(wx, wy)),
      );
    }
    store<f32>(to + ((<usize>t) << 2), sum(f32x4.mul(mean, total)));
  }
}

/**
 * Products of a profile with a look and the levels beside it, for `count` places one tap apart.
 * `look`: the look and two levels, `n` floats each, one behind the other. Out, per place: sum, sum of squares, and the
 * three products.
 */
export function products(profile: usize, look: usize, n: i32, count: i32, to: usize): void {
  const size = (<usize>n) << 2;
  for (let k = 0; k < count; k++) {
    const at = profile + ((<usize>k) << 2);
    // Both look and levels are blind to a constant; without it, single precision is enough for the squares.
    const middle = load<f32>(at + ((<usize>(n >> 1)) << 2));
    const m = f32x4.splat(middle);
    let s = f32x4.splat(0);
    let e = f32x4.splat(0);
    let l = f32x4.splat(0);
    let a = f32x4.splat(0);
    let b = f32x4.splat(0);
    let i = 0;
    for (; i + 4 <= n; i += 4) {
      const o = (<usize>i) << 2;
      const v = f32x4.sub(v128.load(at + o), m);
      s = f32x4.add(s, v);
      e = f32x4.add(e, f32x4.mul(v, v));
      l = f32x4.add(l, f32x4.mul(v, v128.load(look + o)));
      a = f32x4.add(a, f32x4.mul(v, v128.load(look + size + o)));
      b = f32x4.add(b, f32x4.mul(v, v128.load(look + 2 * size + o)));
    }
    let s1 = sum(s);
    let e1 = sum(e);
    let l1 = sum(l);
    let a1 = sum(a);
    let b1 = sum(b);
    for (; i < n; i++) {
      const o = (<usize>i) << 2;
      const v = load<f32>(at + o) - middle;
      s1 += v;
      e1 += v * v;
      l1 += v * load<f32>(look + o);
      a1 += v * load<f32>(look + size + o);
      b1 += v * load<f32>(look + 2 * size + o);
    }
    const out = to + <usize>(20 * k);
    store<f32>(out, s1);
    store<f32>(out, e1, 4);
    store<f32>(out, l1, 8);
    store<f32>(out, a1, 12);
    store<f32>(out, b1, 16);
  }
}

/**
 * A square cell of `side` points along a projective path, ((a + i a1 + j a2) / (w ...), (b ...) / (w ...)) in px of the
 * level less half a px. `cubic` 1 or 0. @returns 0 as soon as a point needs a pixel outside
 */
export function cell(
  image: usize,
  width: i32,
  height: i32,
  a: f64,
  a1: f64,
  a2: f64,
  b: f64,
  b1: f64,
  b2: f64,
  w: f64,
  w1: f64,
  w2: f64,
  ox: f64,
  oy: f64,
  side: i32,
  cubic: i32,
  to: usize,
): i32 {
  const low: f64 = cubic ? 1.0 : 0.0;
  const maxX = <f64>(width - 1 - cubic);
  const maxY = <f64>(height - 1 - cubic);
  const line = (<usize>width) << 2;
  for (let j = 0; j < side; j++) {
    const ja = a + <f64>j * a2;
    const jb = b + <f64>j * b2;
    const jw = w + <f64>j * w2;
    for (let i = 0; i < side; i++) {
      const r = 1.0 / (jw + <f64>i * w1);
      const x = (ja + <f64>i * a1) * r - ox;
      const y = (jb + <f64>i * b1) * r - oy;
      if (!(x >= low && y >= low && x < maxX && y < maxY)) return 0;
      const ix = <i32>x;
      const iy = <i32>y;
      const fx = <f32>(x - <f64>ix);
      const fy = <f32>(y - <f64>iy);
      let value: f32;
      if (cubic) {
        const p = image + ((<usize>((iy - 1) * width + ix - 1)) << 2);
        const wx = keys(fx);
        const wy = keys(fy);
        let v = f32x4.mul(v128.load(p), v128.shuffle<f32>(wy, wy, 0, 0, 0, 0));
        v = f32x4.add(v, f32x4.mul(v128.load(p + line), v128.shuffle<f32>(wy, wy, 1, 1, 1, 1)));
        v = f32x4.add(v, f32x4.mul(v128.load(p + 2 * line), v128.shuffle<f32>(wy, wy, 2, 2, 2, 2)));
        v = f32x4.add(v, f32x4.mul(v128.load(p + 3 * line), v128.shuffle<f32>(wy, wy, 3, 3, 3, 3)));
        value = sum(f32x4.mul(v, wx));
      } else {
        const p = image + ((<usize>(iy * width + ix)) << 2);
        const q = p + line;
        const top = load<f32>(p) + fx * (load<f32>(p, 4) - load<f32>(p));
        const bottom = load<f32>(q) + fx * (load<f32>(q, 4) - load<f32>(q));
        value = top + fy * (bottom - top);
      }
      store<f32>(to + ((<usize>(j * side + i)) << 2), value);
    }
  }
  return 1;
}

/**
 * The mean of `taps` copies of a square of `size` px, shifted along (dx, dy) around its place; the part of the picture
 * given begins `ox`, `oy` px before the square and is `width` wide, wide enough for all of them.
 */
export function smear(
  image: usize,
  width: i32,
  ox: f64,
  oy: f64,
  size: i32,
  taps: i32,
  dx: f64,
  dy: f64,
  to: usize,
): void {
  const f: f32 = <f32>1.0 / <f32>taps;
  const line = (<usize>width) << 2;
  const bytes = (<usize>(size * size)) << 2;
  memory.fill(to, 0, bytes);
  for (let k = 0; k < taps; k++) {
    const share = taps === 1 ? 0.0 : <f64>k / <f64>(taps - 1) - 0.5;
    const sx = ox + share * dx;
    const sy = oy + share * dy;
    const bx = <i32>Math.floor(sx);
    const by = <i32>Math.floor(sy);
    const fx = <f32>(sx - <f64>bx);
    const fy = <f32>(sy - <f64>by);
    const one: f32 = 1.0;
    const w00 = f32x4.splat(f * (one - fx) * (one - fy));
    const w10 = f32x4.splat(f * fx * (one - fy));
    const w01 = f32x4.splat(f * (one - fx) * fy);
    const w11 = f32x4.splat(f * fx * fy);
    for (let y = 0; y < size; y++) {
      const p = image + ((<usize>((by + y) * width + bx)) << 2);
      const q = p + line;
      const out = to + ((<usize>(y * size)) << 2);
      let x = 0;
      for (; x + 4 <= size; x += 4) {
        const o = (<usize>x) << 2;
        let v = f32x4.mul(w00, v128.load(p + o));
        v = f32x4.add(v, f32x4.mul(w10, v128.load(p + o, 4)));
        v = f32x4.add(v, f32x4.mul(w01, v128.load(q + o)));
        v = f32x4.add(v, f32x4.mul(w11, v128.load(q + o, 4)));
        v128.store(out + o, f32x4.add(v128.load(out + o), v));
      }
      for (; x < size; x++) {
        const o = (<usize>x) << 2;
        store<f32>(
          out + o,
          load<f32>(out + o) +
            f32x4.extract_lane(w00, 0) * load<f32>(p + o) +
            f32x4.extract_lane(w10, 0) * load<f32>(p + o, 4) +
            f32x4.extract_lane(w01, 0) * load<f32>(q + o) +
            f32x4.extract_lane(w11, 0) * load<f32>(q + o, 4),
        );
      }
    }
  }
}

export * from './dress';
