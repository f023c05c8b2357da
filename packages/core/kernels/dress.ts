/**
 * The hot loops of rendering, as `index.ts` holds those of following. All pictures are interleaved floats of
 * scene-linear light; RGBA is premultiplied.
 */

// @ts-ignore: a decorator of AssemblyScript
@inline
function f64At(at: usize, i: i32): f64 {
  return load<f64>(at + ((<usize>i) << 3));
}

/** Ideal radius of a real one behind a radial term, both on half the width; `most` is where the lens folds. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function idealRadius(radial: f64, r: f64, most: f64): f64 {
  let u = min(r, most);
  for (let i = 0; i < 20; i++) {
    const slope = 1.0 + 3.0 * radial * u * u;
    const step = (u * (1.0 + radial * u * u) - r) / max(0.05, slope);
    u = min(most, u - step);
    if (Math.abs(step) < 1e-12) break;
  }
  return u;
}

/**
 * Places in the slot of `n` px of a row behind a lens, two numbers a px: every `step`th px goes through the lens, those
 * between lie straight between them. `map` goes from the ideal picture to the slot, nine numbers.
 */
export function lensSlots(
  map: usize,
  radial: f64,
  width: f64,
  height: f64,
  x: f64,
  y: f64,
  n: i32,
  step: i32,
  to: usize,
): void {
  const half = width / 2.0;
  const middle = height / 2.0;
  const most = radial < 0.0 ? Math.sqrt(-1.0 / (3.0 * radial)) : Infinity;
  const dy = (y - middle) / half;
  let fromX = 0.0;
  let fromY = 0.0;
  for (let i = -step; i < n; i += step) {
    const dx = (x + <f64>(i + step) - half) / half;
    const r = Math.sqrt(dx * dx + dy * dy);
    const share = radial === 0.0 || r === 0.0 ? 1.0 : idealRadius(radial, r, most) / r;
    const toX = half + half * dx * share;
    const toY = middle + half * dy * share;
    const end = min(n, i + step);
    for (let k = i; k >= 0 && k < end; k++) {
      const part = <f64>(k - i) / <f64>step;
      const u = fromX + part * (toX - fromX);
      const v = fromY + part * (toY - fromY);
      const w = 1.0 / (f64At(map, 6) * u + f64At(map, 7) * v + f64At(map, 8));
      store<f64>(to + <usize>(16 * k), (f64At(map, 0) * u + f64At(map, 1) * v + f64At(map, 2)) * w);
      store<f64>(to + <usize>(16 * k), (f64At(map, 3) * u + f64At(map, 4) * v + f64At(map, 5)) * w, 8);
    }
    fromX = toX;
    fromY = toY;
  }
}

/**
 * As {@link rowPlaces}, of px whose places in the slot are known: those of the row and one px more at `slots`, those of
 * the row below at `below`. `map` goes from slot to fill.
 */
export function slotPlaces(map: usize, slots: usize, below: usize, n: i32, to: usize): void {
  for (let i = 0; i < n; i++) {
    const here = slots + <usize>(16 * i);
    const s = load<f64>(here);
    const t = load<f64>(here, 8);
    const sx = load<f64>(here, 16) - s;
    const tx = load<f64>(here, 24) - t;
    const sy = load<f64>(below + <usize>(16 * i)) - s;
    const ty = load<f64>(below + <usize>(16 * i), 8) - t;
    const q = 1.0 / (f64At(map, 6) * s + f64At(map, 7) * t + f64At(map, 8));
    const u = (f64At(map, 0) * s + f64At(map, 1) * t + f64At(map, 2)) * q;
    const v = (f64At(map, 3) * s + f64At(map, 4) * t + f64At(map, 5)) * q;
    const us = (f64At(map, 0) - u * f64At(map, 6)) * q;
    const ut = (f64At(map, 1) - u * f64At(map, 7)) * q;
    const vs = (f64At(map, 3) - v * f64At(map, 6)) * q;
    const vt = (f64At(map, 4) - v * f64At(map, 7)) * q;
    const at = to + <usize>(48 * i);
    store<f64>(at, u);
    store<f64>(at, v, 8);
    store<f64>(at, us * sx + ut * tx, 16);
    store<f64>(at, vs * sx + vt * tx, 24);
    store<f64>(at, us * sy + ut * ty, 32);
    store<f64>(at, vs * sy + vt * ty, 40);
  }
}

/**
 * Where `n` px of a row from (`x`, `y`) on look in the fill, and how that changes a px to the right and a px down: six
 * numbers a px. `maps` holds the map from picture to slot and the one from slot to fill, nine numbers each.
 */
export function rowPlaces(maps: usize, x: f64, y: f64, n: i32, to: usize): void {
  const m0 = f64At(maps, 0);
  const m3 = f64At(maps, 3);
  const m6 = f64At(maps, 6);
  const m1 = f64At(maps, 1);
  const m4 = f64At(maps, 4);
  const m7 = f64At(maps, 7);
  const a = m1 * y + f64At(maps, 2);
  const b = m4 * y + f64At(maps, 5);
  const c = m7 * y + f64At(maps, 8);
  const p0 = f64At(maps, 9);
  const p1 = f64At(maps, 10);
  const p2 = f64At(maps, 11);
  const p3 = f64At(maps, 12);
  const p4 = f64At(maps, 13);
  const p5 = f64At(maps, 14);
  const p6 = f64At(maps, 15);
  const p7 = f64At(maps, 16);
  const p8 = f64At(maps, 17);
  for (let i = 0; i < n; i++) {
    const xc = x + <f64>i;
    const w = 1.0 / (m6 * xc + c);
    const s = (m0 * xc + a) * w;
    const t = (m3 * xc + b) * w;
    const sx = (m0 - s * m6) * w;
    const sy = (m1 - s * m7) * w;
    const tx = (m3 - t * m6) * w;
    const ty = (m4 - t * m7) * w;
    const q = 1.0 / (p6 * s + p7 * t + p8);
    const u = (p0 * s + p1 * t + p2) * q;
    const v = (p3 * s + p4 * t + p5) * q;
    const us = (p0 - u * p6) * q;
    const ut = (p1 - u * p7) * q;
    const vs = (p3 - v * p6) * q;
    const vt = (p4 - v * p7) * q;
    const at = to + <usize>(48 * i);
    store<f64>(at, u);
    store<f64>(at, v, 8);
    store<f64>(at, us * sx + ut * tx, 16);
    store<f64>(at, vs * sx + vt * tx, 24);
    store<f64>(at, us * sy + ut * ty, 32);
    store<f64>(at, vs * sy + vt * ty, 40);
  }
}

/** Logarithm to base 2 of `v` > 0, by the series of the inverse hyperbolic tangent; off by less than 1e-6. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function log2(v: f64): f64 {
  const bits = reinterpret<i64>(v);
  const power = <i32>(bits >> 52) - 1023;
  const m = reinterpret<f64>((bits & 0xfffffffffffff) | 0x3ff0000000000000);
  const high = m > 1.4142135623730951;
  const z = high ? (m - 2.0) / (m + 2.0) : (m - 1.0) / (m + 1.0);
  const z2 = z * z;
  return (
    <f64>power +
    (high ? 1.0 : 0.0) +
    2.8853900817779268 *
      z *
      (1.0 + z2 * (0.3333333333333333 + z2 * (0.2 + z2 * (0.14285714285714285 + z2 * 0.1111111111111111))))
  );
}

/** Adding it leaves a number's nearest whole one in the low bits, without the checks that a conversion brings. */
const MAGIC: f64 = 6755399441055744.0;

/** Bilinear sample of RGBA between px (ix, iy) and its neighbours, which lie inside. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function between(p: usize, right: usize, below: usize, fx: f64, fy: f64): v128 {
  const q = p + below;
  const across = f32x4.splat(<f32>fx);
  const a = v128.load(p);
  const c = v128.load(q);
  const top = f32x4.add(a, f32x4.mul(across, f32x4.sub(v128.load(p + right), a)));
  const bottom = f32x4.add(c, f32x4.mul(across, f32x4.sub(v128.load(q + right), c)));
  return f32x4.add(top, f32x4.mul(f32x4.splat(<f32>fy), f32x4.sub(bottom, top)));
}

/** Bilinear sample of RGBA at (x, y), less half a px; beyond the picture its border goes on. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function sampleAt(data: usize, width: i32, height: i32, x: f64, y: f64): v128 {
  if (x >= 0 && y >= 0 && x < <f64>(width - 1) && y < <f64>(height - 1)) {
    const tx = x - 0.5 + MAGIC;
    const ty = y - 0.5 + MAGIC;
    return between(
      data + ((<usize>(<i32>reinterpret<i64>(ty) * width + <i32>reinterpret<i64>(tx))) << 4),
      16,
      (<usize>width) << 4,
      x - (tx - MAGIC),
      y - (ty - MAGIC),
    );
  }
  const cx = min(max(x, 0.0), <f64>(width - 1));
  const cy = min(max(y, 0.0), <f64>(height - 1));
  const ix = min(<i32>cx, max(width - 2, 0));
  const iy = min(<i32>cy, max(height - 2, 0));
  return between(
    data + ((<usize>(iy * width + ix)) << 4),
    width > 1 ? 16 : 0,
    height > 1 ? (<usize>width) << 4 : 0,
    cx - <f64>ix,
    cy - <f64>iy,
  );
}

/** Px that share the size of their footprint, which changes slowly. */
const BLOCK: i32 = 8;

/**
 * A row of fill, filtered over each px' footprint (see `../src/dress/fill/fill-filter.ts`) and weighed by `cover`; px
 * without cover stay as they are. `levels` holds of each size of the fill its address, width, height and its size as a
 * share of the first, from `low` to `high`; `last` is the smallest size there is.
 */
export function filterRow(
  places: usize,
  cover: usize,
  n: i32,
  levels: usize,
  low: i32,
  high: i32,
  last: i32,
  mostTaps: i32,
  nearly: f64,
  to: usize,
): void {
  let until = 0;
  let taps = 1;
  let each = 1.0;
  let share: f32 = 0;
  let side: usize = 16;
  let fine: usize = 0;
  let fineWidth = 0;
  let fineHeight = 0;
  let fineX = 1.0;
  let fineY = 1.0;
  let coarse: usize = 0;
  let coarseWidth = 0;
  let coarseHeight = 0;
  let coarseX = 1.0;
  let coarseY = 1.0;
  for (let i = 0; i < n; i++) {
    const weight = load<f32>(cover + ((<usize>i) << 2));
    if (weight === 0) continue;
    const at = places + <usize>(48 * i);
    const u = load<f64>(at);
    const v = load<f64>(at, 8);
    if (i >= until) {
      const du = load<f64>(at, 16);
      const dv = load<f64>(at, 24);
      const eu = load<f64>(at, 32);
      const ev = load<f64>(at, 40);
      const a2 = du * du + dv * dv;
      const b2 = eu * eu + ev * ev;
      const major = Math.sqrt(max(a2, b2));
      const across = Math.abs(du * ev - dv * eu) / max(major, 1e-9);
      const minor = max(max(across, major / <f64>mostTaps), 1.0);
      const lod = minor === 1.0 ? 0.0 : min(log2(minor), <f64>last);
      const whole = <i32>lod;
      const part = lod - <f64>whole;
      taps = min(max(<i32>Math.ceil(major / minor - nearly), 1), mostTaps);
      each = 1.0 / <f64>taps;
      share = part > 0.01 && whole < last ? <f32>part : <f32>0;
      const a = levels + <usize>(40 * min(max(whole, low), high));
      const b = levels + <usize>(40 * min(max(whole + 1, low), high));
      fine = <usize>load<f64>(a);
      fineWidth = <i32>load<f64>(a, 8);
      fineHeight = <i32>load<f64>(a, 16);
      fineX = load<f64>(a, 24);
      fineY = load<f64>(a, 32);
      coarse = <usize>load<f64>(b);
      coarseWidth = <i32>load<f64>(b, 8);
      coarseHeight = <i32>load<f64>(b, 16);
      coarseX = load<f64>(b, 24);
      coarseY = load<f64>(b, 32);
      side = a2 >= b2 ? 16 : 32;
      until = i + BLOCK;
    }
    let total = f32x4.splat(0);
    if (taps === 1) {
      total = sampleAt(fine, fineWidth, fineHeight, u * fineX - 0.5, v * fineY - 0.5);
      if (share > 0)
        total = f32x4.add(
          total,
          f32x4.mul(
            f32x4.splat(share),
            f32x4.sub(sampleAt(coarse, coarseWidth, coarseHeight, u * coarseX - 0.5, v * coarseY - 0.5), total),
          ),
        );
    } else {
      const along = at + side;
      const su = load<f64>(along);
      const sv = load<f64>(along, 8);
      const one = f32x4.splat(<f32>each * (<f32>1 - share));
      const other = f32x4.splat(<f32>each * share);
      for (let k = 0; k < taps; k++) {
        const o = (<f64>k + 0.5) * each - 0.5;
        const x = u + o * su;
        const y = v + o * sv;
        total = f32x4.add(
          total,
          f32x4.mul(one, sampleAt(fine, fineWidth, fineHeight, x * fineX - 0.5, y * fineY - 0.5)),
        );
        if (share > 0)
          total = f32x4.add(
            total,
            f32x4.mul(other, sampleAt(coarse, coarseWidth, coarseHeight, x * coarseX - 0.5, y * coarseY - 0.5)),
          );
      }
    }
    v128.store(to + ((<usize>i) << 4), f32x4.mul(f32x4.splat(weight), total));
  }
}

/** Light of `n` code values of 1 or 2 bytes. */
export function decodeRow(from: usize, bytes: i32, n: i32, table: usize, to: usize): void {
  if (bytes === 1)
    for (let i = 0; i < n; i++)
      store<f32>(to + ((<usize>i) << 2), load<f32>(table + ((<usize>load<u8>(from + <usize>i)) << 2)));
  else
    for (let i = 0; i < n; i++)
      store<f32>(to + ((<usize>i) << 2), load<f32>(table + ((<usize>load<u16>(from + ((<usize>i) << 1))) << 2)));
}

/**
 * The light that lies on the glass along a row of `n` px from (`x`, `y`) on: what the plate (RGB) shows beyond the
 * glass's own light, `columns` by `rows` cells of R, G, B and nothing (see `../src/dress/light/glare.ts`); nothing where the
 * px lies beside the slot.
 */
export function glareRow(
  plate: usize,
  map: usize,
  x: f64,
  y: f64,
  n: i32,
  cells: usize,
  columns: i32,
  rows: i32,
  to: usize,
): void {
  const m0 = f64At(map, 0);
  const m3 = f64At(map, 3);
  const m6 = f64At(map, 6);
  const a = f64At(map, 1) * y + f64At(map, 2);
  const b = f64At(map, 4) * y + f64At(map, 5);
  const c = f64At(map, 7) * y + f64At(map, 8);
  for (let i = 0; i < n; i++) {
    const xc = x + <f64>i;
    const w = 1.0 / (m6 * xc + c);
    const s = (m0 * xc + a) * w;
    const t = (m3 * xc + b) * w;
    const at = <usize>(12 * i);
    let v = f32x4.splat(0);
    if (s >= -0.02 && t >= -0.02 && s <= 1.02 && t <= 1.02)
      v = f32x4.sub(v128.load(plate + at), sampleAt(cells, columns, rows, s * <f64>columns - 0.5, t * <f64>rows - 0.5));
    store<f32>(to + at, f32x4.extract_lane(v, 0));
    store<f32>(to + at, f32x4.extract_lane(v, 1), 4);
    store<f32>(to + at, f32x4.extract_lane(v, 2), 8);
  }
}

/** Adds `share` times what is not negative of `n` px of RGB to RGBA, as much as its alpha lets through. */
export function addLight(data: usize, light: usize, n: i32, share: f32): void {
  const zero = f32x4.splat(0);
  const amount = f32x4(share, share, share, 0);
  for (let i = 0; i < n; i++) {
    const at = data + ((<usize>i) << 4);
    const v = v128.load(at);
    const l = f32x4.pmax(zero, v128.load(light + <usize>(12 * i)));
    v128.store(at, f32x4.add(v, f32x4.mul(f32x4.mul(amount, l), v128.shuffle<f32>(v, v, 3, 3, 3, 3))));
  }
}

/** `n` floats at `p` times the kernel's middle, and the floats `step` bytes and its multiples to both sides. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function alongRow(p: usize, step: usize, weights: usize, half: i32, n: i32, to: usize): void {
  const middle = f32x4.splat(load<f32>(weights));
  let i = 0;
  for (; i + 8 <= n; i += 8) {
    const at = p + ((<usize>i) << 2);
    let a = f32x4.mul(middle, v128.load(at));
    let b = f32x4.mul(middle, v128.load(at, 16));
    let left = at;
    let right = at;
    for (let k = 1; k <= half; k++) {
      left -= step;
      right += step;
      const w = v128.load32_splat(weights + ((<usize>k) << 2));
      a = f32x4.add(a, f32x4.mul(w, f32x4.add(v128.load(left), v128.load(right))));
      b = f32x4.add(b, f32x4.mul(w, f32x4.add(v128.load(left, 16), v128.load(right, 16))));
    }
    v128.store(to + ((<usize>i) << 2), a);
    v128.store(to + ((<usize>i) << 2), b, 16);
  }
  for (; i < n; i++) {
    const at = p + ((<usize>i) << 2);
    let a = load<f32>(weights) * load<f32>(at);
    for (let k = 1; k <= half; k++)
      a += load<f32>(weights + ((<usize>k) << 2)) * (load<f32>(at - <usize>k * step) + load<f32>(at + <usize>k * step));
    store<f32>(to + ((<usize>i) << 2), a);
  }
}

/**
 * An even kernel along rows and columns, in place; beyond the picture there is nothing. `row` is a row's floats,
 * `weights` the kernel's middle and what follows it to one side, `half` of them; `room` has `row * (half + 2) + 2 *
 * half * channels` floats and 8 bytes for each of `half` places to both sides.
 */
export function blur(data: usize, row: i32, height: i32, channels: i32, weights: usize, half: i32, room: usize): void {
  const edge = (<usize>(half * channels)) << 2;
  const bytes = (<usize>row) << 2;
  const padded = room + edge;
  memory.fill(room, 0, edge);
  memory.fill(padded + bytes, 0, edge);
  for (let y = 0; y < height; y++) {
    const own = data + <usize>y * bytes;
    memory.copy(padded, own, bytes);
    alongRow(padded, (<usize>channels) << 2, weights, half, row, own);
  }
  // Down the columns: rows that are still needed are kept as they were, `half + 1` of them, and one of nothing.
  const kept = room;
  const nothing = room + <usize>(half + 1) * bytes;
  const table = (nothing + bytes + 15) & ~(<usize>15);
  memory.fill(nothing, 0, bytes);
  for (let y = 0; y < height; y++) {
    const own = kept + <usize>(y % (half + 1)) * bytes;
    const out = data + <usize>y * bytes;
    memory.copy(own, out, bytes);
    for (let k = 1; k <= half; k++) {
      store<u32>(
        table + ((<usize>k) << 3) - 8,
        <u32>(y - k >= 0 ? kept + <usize>((y - k) % (half + 1)) * bytes : nothing),
      );
      store<u32>(table + ((<usize>k) << 3) - 4, <u32>(y + k < height ? data + <usize>(y + k) * bytes : nothing));
    }
    acrossRows(own, table, weights, half, row, out);
  }
}

// @ts-ignore: a decorator of AssemblyScript
@inline
function acrossRows(own: usize, table: usize, weights: usize, half: i32, n: i32, to: usize): void {
  const middle = f32x4.splat(load<f32>(weights));
  let i = 0;
  for (; i + 8 <= n; i += 8) {
    const o = (<usize>i) << 2;
    let a = f32x4.mul(middle, v128.load(own + o));
    let b = f32x4.mul(middle, v128.load(own + o, 16));
    for (let k = 1; k <= half; k++) {
      const w = v128.load32_splat(weights + ((<usize>k) << 2));
      const up = <usize>load<u32>(table + ((<usize>k) << 3) - 8) + o;
      const down = <usize>load<u32>(table + ((<usize>k) << 3) - 4) + o;
      a = f32x4.add(a, f32x4.mul(w, f32x4.add(v128.load(up), v128.load(down))));
      b = f32x4.add(b, f32x4.mul(w, f32x4.add(v128.load(up, 16), v128.load(down, 16))));
    }
    v128.store(to + o, a);
    v128.store(to + o, b, 16);
  }
  for (; i < n; i++) {
    const o = (<usize>i) << 2;
    let a = load<f32>(weights) * load<f32>(own + o);
    for (let k = 1; k <= half; k++)
      a +=
        load<f32>(weights + ((<usize>k) << 2)) *
        (load<f32>(<usize>load<u32>(table + ((<usize>k) << 3) - 8) + o) +
          load<f32>(<usize>load<u32>(table + ((<usize>k) << 3) - 4) + o));
    store<f32>(to + o, a);
  }
}

/** The px (ix, iy) weighed, nothing where it lies outside. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function pixelAt(image: usize, width: i32, height: i32, ix: i32, iy: i32, w: f32): v128 {
  return ix >= 0 && iy >= 0 && ix < width && iy < height
    ? f32x4.mul(f32x4.splat(w), v128.load(image + ((<usize>(iy * width + ix)) << 4)))
    : f32x4.splat(0);
}

/**
 * The mean of RGBA along `n` projective paths, nine numbers each, from px of the picture whose first px is (ox, oy).
 */
export function smearPath(
  image: usize,
  width: i32,
  height: i32,
  ox: f64,
  oy: f64,
  maps: usize,
  n: i32,
  to: usize,
): void {
  const weight = <f32>1.0 / <f32>n;
  const line = (<usize>width) << 4;
  const one: f32 = 1.0;
  for (let y = 0; y < height; y++) {
    const yc = <f64>y + oy + 0.5;
    for (let x = 0; x < width; x++) {
      const xc = <f64>x + ox + 0.5;
      let total = f32x4.splat(0);
      let m = maps;
      for (let k = 0; k < n; k++, m += 72) {
        const r = 1.0 / (f64At(m, 6) * xc + f64At(m, 7) * yc + f64At(m, 8));
        const sx = (f64At(m, 0) * xc + f64At(m, 1) * yc + f64At(m, 2)) * r - ox - 0.5;
        const sy = (f64At(m, 3) * xc + f64At(m, 4) * yc + f64At(m, 5)) * r - oy - 0.5;
        if (!(sx > -1.0 && sy > -1.0 && sx < <f64>width && sy < <f64>height)) continue;
        const ix = <i32>(sx + 1.0) - 1;
        const iy = <i32>(sy + 1.0) - 1;
        const fx = <f32>(sx - <f64>ix);
        const fy = <f32>(sy - <f64>iy);
        if (ix >= 0 && iy >= 0 && ix < width - 1 && iy < height - 1) {
          const p = image + ((<usize>(iy * width + ix)) << 4);
          const q = p + line;
          const a = v128.load(p);
          const c = v128.load(q);
          const across = f32x4.splat(fx);
          const top = f32x4.add(a, f32x4.mul(across, f32x4.sub(v128.load(p, 16), a)));
          const bottom = f32x4.add(c, f32x4.mul(across, f32x4.sub(v128.load(q, 16), c)));
          total = f32x4.add(total, f32x4.add(top, f32x4.mul(f32x4.splat(fy), f32x4.sub(bottom, top))));
        } else {
          total = f32x4.add(total, pixelAt(image, width, height, ix, iy, (one - fx) * (one - fy)));
          total = f32x4.add(total, pixelAt(image, width, height, ix + 1, iy, fx * (one - fy)));
          total = f32x4.add(total, pixelAt(image, width, height, ix, iy + 1, (one - fx) * fy));
          total = f32x4.add(total, pixelAt(image, width, height, ix + 1, iy + 1, fx * fy));
        }
      }
      v128.store(to + ((<usize>(y * width + x)) << 4), f32x4.mul(f32x4.splat(weight), total));
    }
  }
}

/** `n` px of RGBA through an affine map of light, in place: four columns of four numbers, for R, G, B and alpha. */
export function mapLight(data: usize, n: i32, columns: usize): void {
  const r = v128.load(columns);
  const g = v128.load(columns, 16);
  const b = v128.load(columns, 32);
  const a = v128.load(columns, 48);
  for (let i = 0; i < n; i++) {
    const at = data + ((<usize>i) << 4);
    const v = v128.load(at);
    let out = f32x4.mul(r, v128.shuffle<f32>(v, v, 0, 0, 0, 0));
    out = f32x4.add(out, f32x4.mul(g, v128.shuffle<f32>(v, v, 1, 1, 1, 1)));
    out = f32x4.add(out, f32x4.mul(b, v128.shuffle<f32>(v, v, 2, 2, 2, 2)));
    v128.store(at, f32x4.add(out, f32x4.mul(a, v128.shuffle<f32>(v, v, 3, 3, 3, 3))));
  }
}

/**
 * `n` px of RGB noise from number `first` on: the hash of `../src/dress/base/hash.ts` looks into a table of 2^bits normal
 * values.
 */
export function noiseRow(first: i32, seed: i32, n: i32, table: usize, bits: i32, to: usize): void {
  const seeds = i32x4.mul(i32x4.add(i32x4.splat(seed), i32x4(0, 1, 2, 3)), i32x4.splat(0x85ebca6b));
  for (let i = 0; i < n; i++) {
    let h = v128.xor(i32x4.splat((first + i) * 0x9e3779b1), seeds);
    h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 16)), i32x4.splat(0x85ebca6b));
    h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 13)), i32x4.splat(0xc2b2ae35));
    h = i32x4.shl(i32x4.shr_u(v128.xor(h, i32x4.shr_u(h, 16)), 32 - bits), 2);
    const at = to + <usize>(12 * i);
    store<f32>(at, load<f32>(table + <usize>i32x4.extract_lane(h, 0)));
    store<f32>(at, load<f32>(table + <usize>i32x4.extract_lane(h, 1)), 4);
    store<f32>(at, load<f32>(table + <usize>i32x4.extract_lane(h, 2)), 8);
  }
}

/**
 * The nearest whole numbers from 0 to 2^22: the places behind the point fall off beside 2^23, without the checks that a
 * conversion brings.
 */
// @ts-ignore: a decorator of AssemblyScript
@inline
function nearest(v: v128): v128 {
  return v128.and(f32x4.add(f32x4.pmax(f32x4.splat(0), v), f32x4.splat(8388608)), i32x4.splat(0x7fffff));
}

/**
 * A row of code values: `element` (RGBA) over `under` (RGB) in light, through the encoding table of `steps` steps over
 * the square root of light, with noise (`field`, RGB, 0 for none) as strong as `strength` says, three numbers for each
 * of `bands` levels. Px that the element does not reach stay as they are unless `changed`.
 */
export function composeRow(
  element: usize,
  under: usize,
  field: usize,
  strength: usize,
  bands: i32,
  codes: usize,
  steps: i32,
  top: f64,
  most: i32,
  n: i32,
  changed: i32,
  bytes: i32,
  to: usize,
): void {
  const scale = f32x4.splat(<f32>(1.0 / top));
  const reach = f32x4.splat(<f32>steps);
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5);
  const full = f32x4.splat(<f32>most);
  const band = f32x4.splat(<f32>bands / <f32>most);
  const last = f32x4.splat(<f32>bands);
  for (let i = 0; i < n; i++) {
    const e = v128.load(element + ((<usize>i) << 4));
    const a = v128.shuffle<f32>(e, e, 3, 3, 3, 3);
    const alpha = f32x4.extract_lane(a, 0);
    const covered = alpha > 0;
    if (!covered && !changed) continue;
    const b = v128.load(under + <usize>(12 * i));
    const light = covered ? f32x4.add(e, f32x4.mul(f32x4.sub(one, a), b)) : b;
    // What is not a number becomes black: the first of two is taken where they cannot be compared.
    const x = f32x4.mul(f32x4.sqrt(f32x4.pmin(f32x4.pmax(zero, f32x4.mul(light, scale)), one)), reach);
    const whole = nearest(f32x4.sub(x, half));
    const at = i32x4.shl(whole, 2);
    const part = f32x4.sub(x, f32x4.convert_i32x4_s(whole));
    const pq = v128.load64_lane(
      codes + <usize>i32x4.extract_lane(at, 1),
      v128.load64_zero(codes + <usize>i32x4.extract_lane(at, 0)),
      1,
    );
    const r = v128.load64_zero(codes + <usize>i32x4.extract_lane(at, 2));
    const here = v128.shuffle<f32>(pq, r, 0, 2, 4, 4);
    const next = v128.shuffle<f32>(pq, r, 1, 3, 5, 5);
    let v = f32x4.add(here, f32x4.mul(part, f32x4.sub(next, here)));
    if (field && covered) {
      const k = i32x4.mul(nearest(f32x4.sub(f32x4.pmin(last, f32x4.mul(v, band)), half)), i32x4.splat(12));
      const s = f32x4(
        load<f32>(strength + <usize>i32x4.extract_lane(k, 0)),
        load<f32>(strength + <usize>i32x4.extract_lane(k, 1), 4),
        load<f32>(strength + <usize>i32x4.extract_lane(k, 2), 8),
        0,
      );
      v = f32x4.add(v, f32x4.mul(f32x4.mul(a, v128.load(field + <usize>(12 * i))), s));
    }
    const c = nearest(f32x4.pmin(v, full));
    if (bytes === 1) {
      const out = to + <usize>(3 * i);
      store<u8>(out, <u8>i32x4.extract_lane(c, 0));
      store<u8>(out, <u8>i32x4.extract_lane(c, 1), 1);
      store<u8>(out, <u8>i32x4.extract_lane(c, 2), 2);
    } else {
      const out = to + <usize>(6 * i);
      store<u16>(out, <u16>i32x4.extract_lane(c, 0));
      store<u16>(out, <u16>i32x4.extract_lane(c, 1), 2);
      store<u16>(out, <u16>i32x4.extract_lane(c, 2), 4);
    }
  }
}

/** Premultiplied light of `n` px of `channels` bytes each, 3 or 4: three tables of 256 values, for R, G and B. */
export function lineariseRow(from: usize, channels: i32, n: i32, tables: usize, to: usize): void {
  let at = from;
  for (let i = 0; i < n; i++, at += <usize>channels) {
    const a = channels === 4 ? <f32>load<u8>(at, 3) / <f32>255 : <f32>1;
    const v = f32x4(
      load<f32>(tables + ((<usize>load<u8>(at)) << 2)),
      load<f32>(tables + ((<usize>load<u8>(at, 1)) << 2), 1024),
      load<f32>(tables + ((<usize>load<u8>(at, 2)) << 2), 2048),
      1,
    );
    v128.store(to + ((<usize>i) << 4), f32x4.mul(v, f32x4.splat(a)));
  }
}

/** `n` px of RGBA, each the mean of two by two of two rows. */
export function halveLight(above: usize, below: usize, n: i32, to: usize): void {
  const quarter = f32x4.splat(0.25);
  for (let i = 0; i < n; i++) {
    const at = (<usize>i) << 5;
    v128.store(
      to + ((<usize>i) << 4),
      f32x4.mul(
        quarter,
        f32x4.add(
          f32x4.add(v128.load(above + at), v128.load(above + at, 16)),
          f32x4.add(v128.load(below + at), v128.load(below + at, 16)),
        ),
      ),
    );
  }
}
