/**
 * The hot loops of rendering, as `index.ts` holds those of following. All pictures are interleaved floats of scene-linear light;
 * RGBA is premultiplied.
 */

// @ts-ignore: a decorator of AssemblyScript
@inline
function f64At(at: usize, i: i32): f64 {
  return load<f64>(at + (<usize>i << 3));
}

/**
 * Where `n` px of a row from (`x`, `y`) on look in the fill, and how that changes a px to the right and a px down: six
 * numbers a px. `maps` holds the map from picture to slot and the one from slot to fill, nine numbers each.
 */
export function rowPlaces(maps: usize, x: f64, y: f64, n: i32, to: usize): void {
  const m0 = f64At(maps, 0), m3 = f64At(maps, 3), m6 = f64At(maps, 6), m1 = f64At(maps, 1), m4 = f64At(maps, 4), m7 = f64At(maps, 7);
  const a = m1 * y + f64At(maps, 2), b = m4 * y + f64At(maps, 5), c = m7 * y + f64At(maps, 8);
  const p0 = f64At(maps, 9), p1 = f64At(maps, 10), p2 = f64At(maps, 11), p3 = f64At(maps, 12), p4 = f64At(maps, 13), p5 = f64At(maps, 14), p6 = f64At(maps, 15), p7 = f64At(maps, 16), p8 = f64At(maps, 17);
  for (let i = 0; i < n; i++) {
    const xc = x + <f64>i, w = 1.0 / (m6 * xc + c), s = (m0 * xc + a) * w, t = (m3 * xc + b) * w;
    const sx = (m0 - s * m6) * w, sy = (m1 - s * m7) * w, tx = (m3 - t * m6) * w, ty = (m4 - t * m7) * w;
    const q = 1.0 / (p6 * s + p7 * t + p8), u = (p0 * s + p1 * t + p2) * q, v = (p3 * s + p4 * t + p5) * q;
    const us = (p0 - u * p6) * q, ut = (p1 - u * p7) * q, vs = (p3 - v * p6) * q, vt = (p4 - v * p7) * q, at = to + <usize>(48 * i);
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
  const bits = reinterpret<i64>(v), power = <i32>(bits >> 52) - 1023, m = reinterpret<f64>((bits & 0xfffffffffffff) | 0x3ff0000000000000);
  const high = m > 1.4142135623730951, z = high ? (m - 2.0) / (m + 2.0) : (m - 1.0) / (m + 1.0), z2 = z * z;
  return <f64>power + (high ? 1.0 : 0.0) + 2.8853900817779268 * z * (1.0 + z2 * (0.3333333333333333 + z2 * (0.2 + z2 * (0.14285714285714285 + z2 * 0.1111111111111111))));
}

/**
 * A row of fill, filtered over each px' footprint (see `../src/dress/fill-filter.ts`) and weighed by `cover`; px without
 * cover stay as they are. `levels` holds of each size of the fill its address, width, height and its size as a share of the
 * first, from `low` to `high`; `last` is the smallest size there is.
 */
export function filterRow(places: usize, cover: usize, n: i32, levels: usize, low: i32, high: i32, last: i32, mostTaps: i32, nearly: f64, to: usize): void {
  for (let i = 0; i < n; i++) {
    const weight = load<f32>(cover + (<usize>i << 2));
    if (weight === 0) continue;
    const at = places + <usize>(48 * i), u = load<f64>(at), v = load<f64>(at, 8), du = load<f64>(at, 16), dv = load<f64>(at, 24), eu = load<f64>(at, 32), ev = load<f64>(at, 40);
    const a2 = du * du + dv * dv, b2 = eu * eu + ev * ev, major = Math.sqrt(max(a2, b2)), across = Math.abs(du * ev - dv * eu) / max(major, 1e-9);
    const minor = max(max(across, major / <f64>mostTaps), 1.0), taps = min(max(<i32>Math.ceil(major / minor - nearly), 1), mostTaps);
    const lod = minor === 1.0 ? 0.0 : min(log2(minor), <f64>last), fine = <i32>lod, part = lod - <f64>fine, t: f64 = part > 0.01 ? part : 0.0, coarse = t > 0.0 && fine < last ? fine + 1 : fine;
    const su = a2 >= b2 ? du : eu, sv = a2 >= b2 ? dv : ev, each = 1.0 / <f64>taps;
    let total = f32x4.splat(0);
    for (let l = fine; l <= coarse; l++) {
      const level = levels + <usize>(40 * min(max(l, low), high)), data = <usize>load<f64>(level), width = <i32>load<f64>(level, 8), height = <i32>load<f64>(level, 16), kx = load<f64>(level, 24), ky = load<f64>(level, 32);
      const right: usize = width > 1 ? 16 : 0, below: usize = height > 1 ? <usize>width << 4 : 0, mostX = <f64>(width - 1), mostY = <f64>(height - 1), lastX = max(width - 2, 0), lastY = max(height - 2, 0);
      const share = <f32>((l === fine ? 1.0 - t : t) * each);
      for (let k = 0; k < taps; k++) {
        const o = (<f64>k + 0.5) * each - 0.5, x = min(max((u + o * su) * kx - 0.5, 0.0), mostX), y = min(max((v + o * sv) * ky - 0.5, 0.0), mostY);
        const ix = min(<i32>x, lastX), iy = min(<i32>y, lastY), fx = <f32>(x - <f64>ix), fy = <f32>(y - <f64>iy);
        const w11 = fx * fy * share, w10 = fx * share - w11, w01 = fy * share - w11, w00 = share - w10 - w01 - w11, p = data + (<usize>(iy * width + ix) << 4), q = p + below;
        total = f32x4.add(total, f32x4.mul(f32x4.splat(w00), v128.load(p)));
        total = f32x4.add(total, f32x4.mul(f32x4.splat(w10), v128.load(p + right)));
        total = f32x4.add(total, f32x4.mul(f32x4.splat(w01), v128.load(q)));
        total = f32x4.add(total, f32x4.mul(f32x4.splat(w11), v128.load(q + right)));
      }
    }
    v128.store(to + (<usize>i << 4), f32x4.mul(f32x4.splat(weight), total));
  }
}

/** `n` floats at `p` times the kernel's middle, and the floats `step` bytes and its multiples to both sides. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function alongRow(p: usize, step: usize, weights: usize, half: i32, n: i32, to: usize): void {
  const middle = f32x4.splat(load<f32>(weights));
  let i = 0;
  for (; i + 8 <= n; i += 8) {
    const at = p + (<usize>i << 2);
    let a = f32x4.mul(middle, v128.load(at)), b = f32x4.mul(middle, v128.load(at, 16)), left = at, right = at;
    for (let k = 1; k <= half; k++) {
      left -= step;
      right += step;
      const w = v128.load32_splat(weights + (<usize>k << 2));
      a = f32x4.add(a, f32x4.mul(w, f32x4.add(v128.load(left), v128.load(right))));
      b = f32x4.add(b, f32x4.mul(w, f32x4.add(v128.load(left, 16), v128.load(right, 16))));
    }
    v128.store(to + (<usize>i << 2), a);
    v128.store(to + (<usize>i << 2), b, 16);
  }
  for (; i < n; i++) {
    const at = p + (<usize>i << 2);
    let a = load<f32>(weights) * load<f32>(at);
    for (let k = 1; k <= half; k++) a += load<f32>(weights + (<usize>k << 2)) * (load<f32>(at - <usize>k * step) + load<f32>(at + <usize>k * step));
    store<f32>(to + (<usize>i << 2), a);
  }
}

/**
 * An even kernel along rows and columns, in place; beyond the picture there is nothing. `row` is a row's floats, `weights`
 * the kernel's middle and what follows it to one side, `half` of them; `room` has `row * (half + 2) + 2 * half * channels` floats
 * and 8 bytes for each of `half` places to both sides.
 */
export function blur(data: usize, row: i32, height: i32, channels: i32, weights: usize, half: i32, room: usize): void {
  const edge = <usize>(half * channels) << 2, bytes = <usize>row << 2, padded = room + edge;
  memory.fill(room, 0, edge);
  memory.fill(padded + bytes, 0, edge);
  for (let y = 0; y < height; y++) {
    const own = data + <usize>y * bytes;
    memory.copy(padded, own, bytes);
    alongRow(padded, <usize>channels << 2, weights, half, row, own);
  }
  // Down the columns: rows that are still needed are kept as they were, `half + 1` of them, and one of nothing.
  const kept = room, nothing = room + <usize>(half + 1) * bytes, table = (nothing + bytes + 15) & ~(<usize>15);
  memory.fill(nothing, 0, bytes);
  for (let y = 0; y < height; y++) {
    const own = kept + <usize>(y % (half + 1)) * bytes, out = data + <usize>y * bytes;
    memory.copy(own, out, bytes);
    for (let k = 1; k <= half; k++) {
      store<u32>(table + (<usize>k << 3) - 8, <u32>(y - k >= 0 ? kept + <usize>((y - k) % (half + 1)) * bytes : nothing));
      store<u32>(table + (<usize>k << 3) - 4, <u32>(y + k < height ? data + <usize>(y + k) * bytes : nothing));
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
    const o = <usize>i << 2;
    let a = f32x4.mul(middle, v128.load(own + o)), b = f32x4.mul(middle, v128.load(own + o, 16));
    for (let k = 1; k <= half; k++) {
      const w = v128.load32_splat(weights + (<usize>k << 2)), up = <usize>load<u32>(table + (<usize>k << 3) - 8) + o, down = <usize>load<u32>(table + (<usize>k << 3) - 4) + o;
      a = f32x4.add(a, f32x4.mul(w, f32x4.add(v128.load(up), v128.load(down))));
      b = f32x4.add(b, f32x4.mul(w, f32x4.add(v128.load(up, 16), v128.load(down, 16))));
    }
    v128.store(to + o, a);
    v128.store(to + o, b, 16);
  }
  for (; i < n; i++) {
    const o = <usize>i << 2;
    let a = load<f32>(weights) * load<f32>(own + o);
    for (let k = 1; k <= half; k++) a += load<f32>(weights + (<usize>k << 2)) * (load<f32>(<usize>load<u32>(table + (<usize>k << 3) - 8) + o) + load<f32>(<usize>load<u32>(table + (<usize>k << 3) - 4) + o));
    store<f32>(to + o, a);
  }
}

/** The px (ix, iy) weighed, nothing where it lies outside. */
// @ts-ignore: a decorator of AssemblyScript
@inline
function pixelAt(image: usize, width: i32, height: i32, ix: i32, iy: i32, w: f32): v128 {
  return ix >= 0 && iy >= 0 && ix < width && iy < height ? f32x4.mul(f32x4.splat(w), v128.load(image + (<usize>(iy * width + ix) << 4))) : f32x4.splat(0);
}

/** The mean of RGBA along `n` projective paths, nine numbers each, from px of the picture whose first px is (ox, oy). */
export function smearPath(image: usize, width: i32, height: i32, ox: f64, oy: f64, maps: usize, n: i32, to: usize): void {
  const weight = <f32>1.0 / <f32>n, line = <usize>width << 4, one: f32 = 1.0;
  for (let y = 0; y < height; y++) {
    const yc = <f64>y + oy + 0.5;
    for (let x = 0; x < width; x++) {
      const xc = <f64>x + ox + 0.5;
      let total = f32x4.splat(0), m = maps;
      for (let k = 0; k < n; k++, m += 72) {
        const r = 1.0 / (f64At(m, 6) * xc + f64At(m, 7) * yc + f64At(m, 8)), sx = (f64At(m, 0) * xc + f64At(m, 1) * yc + f64At(m, 2)) * r - ox - 0.5, sy = (f64At(m, 3) * xc + f64At(m, 4) * yc + f64At(m, 5)) * r - oy - 0.5;
        if (!(sx > -1.0 && sy > -1.0 && sx < <f64>width && sy < <f64>height)) continue;
        const ix = <i32>(sx + 1.0) - 1, iy = <i32>(sy + 1.0) - 1, fx = <f32>(sx - <f64>ix), fy = <f32>(sy - <f64>iy);
        if (ix >= 0 && iy >= 0 && ix < width - 1 && iy < height - 1) {
          const p = image + (<usize>(iy * width + ix) << 4), q = p + line, a = v128.load(p), c = v128.load(q), across = f32x4.splat(fx);
          const top = f32x4.add(a, f32x4.mul(across, f32x4.sub(v128.load(p, 16), a))), bottom = f32x4.add(c, f32x4.mul(across, f32x4.sub(v128.load(q, 16), c)));
          total = f32x4.add(total, f32x4.add(top, f32x4.mul(f32x4.splat(fy), f32x4.sub(bottom, top))));
        } else {
          total = f32x4.add(total, pixelAt(image, width, height, ix, iy, (one - fx) * (one - fy)));
          total = f32x4.add(total, pixelAt(image, width, height, ix + 1, iy, fx * (one - fy)));
          total = f32x4.add(total, pixelAt(image, width, height, ix, iy + 1, (one - fx) * fy));
          total = f32x4.add(total, pixelAt(image, width, height, ix + 1, iy + 1, fx * fy));
        }
      }
      v128.store(to + (<usize>(y * width + x) << 4), f32x4.mul(f32x4.splat(weight), total));
    }
  }
}

/** `n` px of RGBA through an affine map of light, in place: four columns of four numbers, for R, G, B and alpha. */
export function mapLight(data: usize, n: i32, columns: usize): void {
  const r = v128.load(columns), g = v128.load(columns, 16), b = v128.load(columns, 32), a = v128.load(columns, 48);
  for (let i = 0; i < n; i++) {
    const at = data + (<usize>i << 4), v = v128.load(at);
    let out = f32x4.mul(r, v128.shuffle<f32>(v, v, 0, 0, 0, 0));
    out = f32x4.add(out, f32x4.mul(g, v128.shuffle<f32>(v, v, 1, 1, 1, 1)));
    out = f32x4.add(out, f32x4.mul(b, v128.shuffle<f32>(v, v, 2, 2, 2, 2)));
    v128.store(at, f32x4.add(out, f32x4.mul(a, v128.shuffle<f32>(v, v, 3, 3, 3, 3))));
  }
}

/** `n` px of RGB noise from number `first` on: the hash of `../src/dress/hash.ts` looks into a table of 2^bits normal values. */
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
 * A row of code values: `element` (RGBA) over `under` (RGB) in light, through the encoding table of `steps` steps over the square
 * root of light, with noise (`field`, RGB, 0 for none) as strong as `strength` says, three numbers for each of `bands` levels. Px that the element does not reach stay as they are
 * unless `changed`.
 */
export function composeRow(element: usize, under: usize, field: usize, strength: usize, bands: i32, codes: usize, steps: i32, top: f64, most: i32, n: i32, changed: i32, bytes: i32, to: usize): void {
  const scale = f32x4.splat(<f32>(1.0 / top)), reach = f32x4.splat(<f32>steps), zero = f32x4.splat(0), one = f32x4.splat(1), half = f32x4.splat(0.5), full = f32x4.splat(<f32>most), level = f32x4.splat(<f32>bands / <f32>most), last = i32x4.splat(bands);
  for (let i = 0; i < n; i++) {
    const e = v128.load(element + (<usize>i << 4)), a = v128.shuffle<f32>(e, e, 3, 3, 3, 3), alpha = f32x4.extract_lane(a, 0), covered = alpha > 0;
    if (!covered && !changed) continue;
    const b = v128.load(under + <usize>(12 * i)), light = covered ? f32x4.add(e, f32x4.mul(f32x4.sub(one, a), b)) : b;
    const x = f32x4.mul(f32x4.sqrt(f32x4.min(f32x4.max(f32x4.mul(light, scale), zero), one)), reach), whole = i32x4.trunc_sat_f32x4_s(x), at = i32x4.shl(whole, 2), part = f32x4.sub(x, f32x4.convert_i32x4_s(whole));
    const p = codes + <usize>i32x4.extract_lane(at, 0), q = codes + <usize>i32x4.extract_lane(at, 1), r = codes + <usize>i32x4.extract_lane(at, 2);
    const here = f32x4(load<f32>(p), load<f32>(q), load<f32>(r), 0), next = f32x4(load<f32>(p, 4), load<f32>(q, 4), load<f32>(r, 4), 0);
    let v = f32x4.add(here, f32x4.mul(part, f32x4.sub(next, here)));
    if (field && covered) {
      const k = i32x4.mul(i32x4.min_s(last, i32x4.trunc_sat_f32x4_s(f32x4.mul(v, level))), i32x4.splat(12));
      const s = f32x4(load<f32>(strength + <usize>i32x4.extract_lane(k, 0)), load<f32>(strength + <usize>i32x4.extract_lane(k, 1), 4), load<f32>(strength + <usize>i32x4.extract_lane(k, 2), 8), 0);
      v = f32x4.add(v, f32x4.mul(f32x4.mul(a, v128.load(field + <usize>(12 * i))), s));
    }
    const c = i32x4.trunc_sat_f32x4_s(f32x4.min(f32x4.add(f32x4.max(v, zero), half), full));
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
