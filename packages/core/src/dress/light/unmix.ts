/**
 * The plate's own edge of the glass, taken apart. Where a glass edge is soft a pixel shows A of the glass and 1 - A of
 * what lies beyond it, mixed in light: plate = A G + (1 - A) B. How much of the glass it shows, A, is the coverage of
 * the pin, softened and smeared as the plate is; one of the two sides is known from where it stands alone, and the other
 * follows. So the fill is mixed anew with what really lies beyond the glass, and light on the glass is not taken for the
 * bezel's softness. The mixing equation is that of Porter and Duff, Compositing Digital Images, 1984.
 */
import { clamp } from '../../clamp';
import type { Region } from '../base/region';
import { gaussianBlur } from '../shape/softness';

/** Light of one pixel. */
export type Light = [number, number, number];

export interface UnmixTask {
  readonly region: Region;
  /** share of each px that the glass covers, 0 to 1 */
  readonly cover: Float32Array;
  /**
   * the glass's light, scene-linear RGB, at px `i` of the region, of which (x, y) is the middle, into `out`; null where
   * only the plate tells it, as of a lit screen
   */
  readonly glass: ((i: number, x: number, y: number, out: Light) => void) | null;
  /** the screen shows one colour, to be keyed */
  readonly isEven: boolean;
  /** how much of the fill shows (holdouts): what passes in front stays as it is; null for all of it */
  readonly shows: Float32Array | null;
}

/** What is known of the light of a glass. */
interface Knowledge {
  /** coverage up to which a px tells what lies beyond the glass */
  readonly beyond: number;
  /** error of the glass's light, by that of what lies beyond it where it is continued from outside */
  readonly error: number;
}

const UNMIX = {
  /** Coverage, and what is left to 1, below which a px shows one side alone: a quarter of a level of 255. */
  alone: 0.001,
  /** Coverage from which a px tells what the glass shows. By trial. */
  within: 0.97,
  /** Coverage from which what a px shows of the glass can be told from what lies beyond. By trial. */
  told: 0.5,
  /** px; sigma by which the coverage is widened to know where the glass lies from beyond it. By trial. */
  around: 4,
  /** px that are searched for either. By trial. */
  farthest: 64,
  /** Glass whose own light was measured over the shot. By trial. */
  measured: { beyond: 0.15, error: 0.15 },
  /** Glass of one colour, continued from inside. By trial. */
  even: { beyond: 0.15, error: 3 },
  /** A picture on the glass, which goes on as it likes. By trial. */
  picture: { beyond: 0.05, error: 20 },
} as const;

/** Whether a px shows nothing but the glass. */
const isGlassAlone = (cover: number): boolean => cover >= 1 - UNMIX.alone;

/** Walks through the region's pixels along the slope of the coverage. */
class Slope {
  private dx = 0;
  private dy = 0;
  private readonly width: number;
  private readonly height: number;

  /** @param along whose slope is walked along; the coverage's own when left out */
  constructor(
    private readonly cover: Float32Array,
    { width, height }: Region,
    private readonly along: Float32Array = cover,
  ) {
    this.width = width;
    this.height = height;
  }

  /** Stands at a px. @returns false where the coverage has no slope */
  at(x: number, y: number): boolean {
    const of = (i: number, j: number): number =>
      this.along[clamp(j, 0, this.height - 1) * this.width + clamp(i, 0, this.width - 1)]!;
    // Over three rows and columns, so that the steps of a slanting side do not turn it.
    const dx =
      of(x + 1, y) - of(x - 1, y) + 0.5 * (of(x + 1, y + 1) - of(x - 1, y + 1) + of(x + 1, y - 1) - of(x - 1, y - 1));
    const dy =
      of(x, y + 1) - of(x, y - 1) + 0.5 * (of(x + 1, y + 1) - of(x + 1, y - 1) + of(x - 1, y + 1) - of(x - 1, y - 1));
    const l = Math.hypot(dx, dy);
    if (!(l > 0)) return false;
    this.dx = dx / l;
    this.dy = dy / l;
    return true;
  }

  /** First px whose coverage is told as wanted, inwards or outwards from (x, y); -1 where there is none. */
  find(x: number, y: number, sign: 1 | -1, isWanted: (cover: number) => boolean): number {
    for (let step = 0; step <= UNMIX.farthest; step++) {
      const px = Math.round(x + sign * step * this.dx);
      const py = Math.round(y + sign * step * this.dy);
      if (px < 0 || py < 0 || px >= this.width || py >= this.height) return -1;
      const i = py * this.width + px;
      if (isWanted(this.cover[i]!)) return i;
    }
    return -1;
  }

  /** The px to both sides along the edge, for a mean that is less noisy; the px itself at the border. */
  beside(i: number): readonly [number, number] {
    const x = i % this.width;
    const y = (i - x) / this.width;
    const place = (sign: number): number =>
      clamp(Math.round(y + sign * this.dx), 0, this.height - 1) * this.width +
      clamp(Math.round(x - sign * this.dy), 0, this.width - 1);
    return [place(1), place(-1)];
  }
}

const isTold = (cover: number): boolean => cover >= UNMIX.told;
const isWithin = (cover: number): boolean => cover >= UNMIX.within;

/** Takes one plate apart. */
class Unmixing {
  private readonly slope: Slope;
  private readonly known: Knowledge;
  private readonly inside: Light = [0, 0, 0];
  private readonly outside: Light = [0, 0, 0];

  /** @param src the plate as it came */
  constructor(
    private readonly src: Float32Array,
    private readonly t: UnmixTask,
  ) {
    this.slope = new Slope(t.cover, t.region);
    const continued = t.isEven ? UNMIX.even : UNMIX.picture;
    this.known = t.glass ? UNMIX.measured : continued;
  }

  /** Mean of a px and its two neighbours along the edge. */
  private mean(i: number, of: (i: number, c: number) => number, out: Light): void {
    const [a, b] = this.slope.beside(i);
    for (let c = 0; c < 3; c++) out[c] = 0.5 * of(i, c) + 0.25 * (of(a, c) + of(b, c));
  }

  /** Light of the glass at px `i`. @returns false where it is not known */
  private glassAt(i: number, x: number, y: number): boolean {
    const { glass } = this.t;
    if (glass) {
      glass(i, this.t.region.x + x + 0.5, this.t.region.y + y + 0.5, this.inside);
      return true;
    }
    const at = this.slope.find(x, y, 1, isWithin);
    if (at < 0) return false;
    this.mean(at, (k, c) => this.src[3 * k + c]!, this.inside);
    return true;
  }

  /** Light beyond the glass nearest to (x, y), with what the glass adds to it there taken out. */
  private beyondAt(x: number, y: number): boolean {
    const most = this.known.beyond;
    const at = this.slope.find(x, y, -1, (cover) => cover <= most);
    if (at < 0) return false;
    const { cover } = this.t;
    this.mean(
      at,
      (k, c) => {
        const a = Math.min(cover[k]!, most);
        return (this.src[3 * k + c]! - a * this.inside[c]!) / (1 - a);
      },
      this.outside,
    );
    return true;
  }

  /** What lies beyond the glass at px `i`, into `out`. @returns false where it is not told */
  beyond(i: number, x: number, y: number, out: Float32Array): boolean {
    const { cover, shows } = this.t;
    const a = cover[i]!;
    if (!this.slope.at(x, y) || !this.glassAt(i, x, y) || !this.beyondAt(x, y)) return false;
    // The px itself tells it the better the less of the glass it shows.
    const ofGlass = (a * this.known.error) ** 2;
    const continued = ofGlass / (ofGlass + (1 - a) ** 2);
    const share = shows ? clamp(shows[i]!, 0, 1) : 1;
    for (let c = 0; c < 3; c++) {
      const seen = this.src[3 * i + c]!;
      const own = a < 1 ? (seen - a * this.inside[c]!) / (1 - a) : 0;
      const light = Math.max(0, own + continued * (this.outside[c]! - own));
      out[3 * i + c] = seen + share * (light - seen);
    }
    return true;
  }
}

/**
 * Puts what lies beyond the glass where the plate shows both, in place.
 * @param plate scene-linear RGB of the region
 * @returns whether anything was changed
 */
export function unmixEdge(plate: Float32Array, t: UnmixTask): boolean {
  const { width, height } = t.region;
  const unmixing = new Unmixing(plate.slice(), t);
  let any = false;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const a = t.cover[i]!;
      if (a <= UNMIX.alone || isGlassAlone(a)) continue;
      if (t.shows && t.shows[i]! <= 0) continue;
      any = unmixing.beyond(i, x, y, plate) || any;
    }
  return any;
}

/**
 * Leaves the glass alone in a plate, in place: what lies beyond it is taken out of its soft edge, and its light goes on
 * beyond it, so that a key finds the screen's colour up to the glass edge.
 * @param plate scene-linear RGB of the region
 */
export function glassAlone(plate: Float32Array, t: UnmixTask): void {
  const { cover, region } = t;
  const { width, height } = region;
  const beyond = plate.slice();
  if (!unmixEdge(beyond, { ...t, shows: null })) return;
  const wide = cover.slice();
  gaussianBlur(wide, width, height, 1, UNMIX.around);
  for (let i = 0; i < cover.length; i++) {
    const a = cover[i]!;
    if (!isTold(a) || isGlassAlone(a)) continue;
    for (let k = 3 * i; k < 3 * i + 3; k++) plate[k] = Math.max(0, (plate[k]! - (1 - a) * beyond[k]!) / a);
  }
  const slope = new Slope(cover, region, wide);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (isTold(cover[i]!) || wide[i]! <= UNMIX.alone || !slope.at(x, y)) continue;
      const from = slope.find(x, y, 1, isTold);
      if (from >= 0) for (let c = 0; c < 3; c++) plate[3 * i + c] = plate[3 * from + c]!;
    }
}

/**
 * Continues light on the glass, RGB, from where the glass stands alone to its soft edge and a little beyond, in place,
 * and softens it; beyond that it is nothing.
 * @param sigma px
 */
export function continueGlass(light: Float32Array, cover: Float32Array, region: Region, sigma: number): void {
  const { width, height } = region;
  const slope = new Slope(cover, region);
  const known = new Float32Array(cover.length);
  for (let i = 0; i < known.length; i++) known[i] = isGlassAlone(cover[i]!) ? 1 : 0;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (known[i]! > 0) continue;
      const from = cover[i]! > UNMIX.alone && slope.at(x, y) ? slope.find(x, y, 1, isGlassAlone) : -1;
      for (let c = 0; c < 3; c++) light[3 * i + c] = from < 0 ? 0 : light[3 * from + c]!;
      if (from >= 0) known[i] = 1;
    }
  gaussianBlur(light, width, height, 3, sigma);
  gaussianBlur(known, width, height, 1, sigma);
  for (let i = 0; i < known.length; i++)
    if (known[i]! > 0 && known[i]! < 1) for (let c = 0; c < 3; c++) light[3 * i + c]! /= known[i]!;
}
