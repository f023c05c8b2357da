/**
 * Match all: what the plate tells of how a fill must look to sit in it. Frames are shown to it one by one; in the end
 * it proposes parts of a dress, each with what was measured, to be taken or refused one by one.
 */
import { unitSquareToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import { boundsOf, insidePolygon } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import type { Luma, Raster } from '../image/image';
import { luminance } from '../image/luminance';
import { median, quantile } from '../statistics';
import { cornerRadii } from './corner-radius';
import { edgeSpread } from './edge-spread';
import type { GlassLight } from './glare';
import { glassLight } from './glare';
import type { MeasuredGrain } from './grain';
import { measureGrain } from './grain';
import { keyStrength } from './holdout';
import type { Rgb } from './levels';
import type { DressRecipe } from './recipe';
import { screenKind } from './screen-kind';
import type { Transfer } from './transfer';
import { CURVES, decodingTable } from './transfer';

/** Parts of a dress that can be proposed. */
export const PARTS = [
  'levels',
  'softness',
  'motionBlur',
  'edge',
  'glare',
  'grain',
  'holdouts',
  'spill',
  'rim',
] as const;

export interface Proposal {
  readonly part: (typeof PARTS)[number];
  /** what was measured, as a sentence */
  readonly told: string;
  readonly recipe: Partial<DressRecipe>;
}

export interface Sample {
  readonly frame: number;
  readonly picture: Raster;
  readonly corners: Quad;
  /** px that a point moves while the shutter is open */
  readonly moves?: (at: Point) => Point;
}

const MATCH = {
  /** Cells of the glass's own light, along its longer side. By trial. */
  cells: 24,
  /** Quantile of the surroundings that stands for their black. By trial. */
  blackShare: 0.01,
  /** Places on the screen without which its light is not told. By trial. */
  enoughInside: 50,
  /** Share of the darkest that a picture shows at which black is taken. Common practice, no source. */
  belowShown: 1 / 3,
  /** Quantile of them that stands for their white. By trial. */
  whiteShare: 0.99,
  /** Quantile of the whole picture that stands for its brightest. By trial. */
  brightestShare: 0.998,
  /**
   * Share of white; light of its black beyond which a lit screen is hazier than rooms make it: bright surroundings
   * without any black tell nothing of it. Common practice, no source.
   */
  haze: 0.012,
  /**
   * Share of the range; least light of a screen's white where its own picture does not tell of it: a screen is a
   * lamp, and near clipping where a room is exposed for. Common practice, no source.
   */
  lamp: 0.85,
  /**
   * Depth of flicker that is worth following; a filmed display flickers by about 2 % (common practice, no source). By
   * trial.
   */
  flicker: 0.04,
  /** Frames to each side against which flicker is told from slow changes and what moves into view. By trial. */
  flickerSpan: 4,
  /** Correlation of the picture's two halves from which a change of light is one. By trial. */
  agree: 0.8,
  /**
   * Logarithm; change of the whole picture's light over the shot from which it is the exposure's: smaller ones drift
   * in with what moves into view. By trial.
   */
  exposure: 0.4,
  /** Share of it by which the two halves may differ. By trial. */
  apart: 0.2,
  /** Cells along the longer side in which marks are looked for. By trial. */
  markCells: 180,
  /** Of the screen's longer side; a longer thing is no mark. By trial. */
  markMost: 0.16,
  /** Of the screen's longer side; a shorter thing is noise. By trial. */
  markLeast: 0.01,
  /** Corners, over all frames, that must tell of their radius. By trial. */
  enoughRound: 8,
  /** Of the shorter side; smaller radii are taken for square corners. By trial. */
  leastRound: 0.012,
  /** Of the shorter side; larger ones are a mistake. By trial. */
  mostRound: 0.3,
  /** Of the screen's size; how far its surroundings reach. By trial. */
  around: 0.35,
  /** px of the surroundings that are sampled. By trial. */
  mostAround: 6000,
  /** px at which every frame is glanced at. By trial. */
  glances: 4000,
} as const;

interface Island {
  readonly area: number;
  readonly width: number;
  readonly height: number;
  /** the border of the picture */
  readonly touches: boolean;
}

/** Connected groups of set cells, by their four neighbours. */
function islands(set: Uint8Array, width: number, height: number): Island[] {
  const left = set.slice();
  const out: Island[] = [];
  for (let from = 0; from < left.length; from++) {
    if (!left[from]) continue;
    const stack = [from];
    left[from] = 0;
    let area = 0;
    let x0 = width;
    let x1 = 0;
    let y0 = height;
    let y1 = 0;
    while (stack.length > 0) {
      const k = stack.pop()!;
      const x = k % width;
      const y = (k - x) / width;
      area++;
      [x0, x1, y0, y1] = [Math.min(x0, x), Math.max(x1, x), Math.min(y0, y), Math.max(y1, y)];
      for (const [ok, to] of [
        [x > 0, k - 1],
        [x < width - 1, k + 1],
        [y > 0, k - width],
        [y < height - 1, k + width],
      ] as const)
        if (ok && left[to]) {
          left[to] = 0;
          stack.push(to);
        }
    }
    out.push({
      area,
      width: x1 - x0 + 1,
      height: y1 - y0 + 1,
      touches: x0 === 0 || y0 === 0 || x1 === width - 1 || y1 === height - 1,
    });
  }
  return out;
}

/**
 * The black of a screen of which a picture is seen: its own darkest place is seldom black, and softened by the lens, so
 * that it only bounds it. @param shown the darkest that it shows, NaN where that is not told
 */
function beyondShown(shown: number, about: number): number {
  return MATCH.belowShown * Math.min(Number.isNaN(shown) ? Infinity : shown, about);
}

const round = (v: number, digits = 4): number => Number(v.toFixed(digits));

/** Gathers what frames tell of the light on a Screen, and says which dress matches it. */
export class DressMeasure {
  private readonly around: { readonly frame: number; readonly light: readonly number[] }[] = [];
  /**
   * the darkest and the brightest of each picture that was looked at: a screen is a lamp, whose range stands beside
   * that of the shot and not only of its neighbours
   */
  private readonly extremes: { readonly frame: number; readonly range: readonly [number, number] }[] = [];
  private readonly cells: Float32Array[] = [];
  private readonly inside: number[][] = [];
  private readonly grains: MeasuredGrain[] = [];
  /** radii of corners that told, heights of the slot */
  private readonly rounds: number[] = [];
  private readonly spreads: { frame: number; sigma: number }[] = [];
  /** logarithm of the picture's light by frame, from the first one on: told by two halves of it */
  private readonly lights: { frame: number; halves: readonly [number, number] }[] = [];
  private glanced: Float32Array | null = null;
  private marked: { readonly picture: Raster; readonly corners: Quad } | null = null;
  private readonly decode: Float32Array;
  private readonly columns: number;
  private readonly rows: number;

  constructor(
    private readonly max: number,
    private readonly transfer: Transfer,
    private readonly aspect: number,
    private readonly referenceFrame: number,
  ) {
    this.decode = decodingTable(max, transfer);
    this.columns = aspect >= 1 ? MATCH.cells : Math.max(4, Math.round(MATCH.cells * aspect));
    this.rows = aspect >= 1 ? Math.max(4, Math.round(MATCH.cells / aspect)) : MATCH.cells;
  }

  /**
   * How a frame's light differs from the one before, for its flicker: cheap enough for every frame, which come in
   * order.
   */
  glance({ frame, picture, corners }: Sample): void {
    const step = Math.max(2, Math.round(Math.sqrt((picture.width * picture.height) / MATCH.glances)));
    const grid = new Float32Array(Math.ceil(picture.width / step) * Math.ceil(picture.height / step));
    const ratios: [number[], number[]] = [[], []];
    for (let y = 0, k = 0; y < picture.height; y += step)
      for (let x = 0; x < picture.width; x += step, k++) {
        const l = luminance(...this.light(picture, x, y));
        const before = this.glanced?.[k] ?? 0;
        grid[k] = l;
        // Whatever moves is as often brighter as darker than what was there: the median is left with the light's own
        // change.
        if (before > 0.01 && l > 0.01 && l < 0.95 && !insidePolygon([x, y], corners))
          ratios[(Math.floor((8 * x) / picture.width) + Math.floor((6 * y) / picture.height)) & 1]!.push(
            Math.log(l / before),
          );
      }
    this.glanced = grid;
    const last = this.lights.at(-1)?.halves ?? [0, 0];
    this.lights.push({
      frame,
      halves: [0, 1].map((i) => last[i]! + (ratios[i]!.length > 30 ? median(ratios[i]!) : 0)) as unknown as [
        number,
        number,
      ],
    });
  }

  /** All that one frame tells. */
  look(s: Sample): void {
    if (!this.marked || s.frame === this.referenceFrame)
      this.marked = { picture: { ...s.picture, data: s.picture.data.slice() }, corners: s.corners };
    for (const light of this.surroundings(s.picture, s.corners, MATCH.mostAround))
      this.around.push({ frame: s.frame, light });
    this.extremes.push({ frame: s.frame, range: this.extremesOf(s.picture) });
    this.cells.push(this.glass(s.picture, s.corners));
    this.grains.push(this.noise(s.picture, s.corners));
    const { picture } = s;
    this.rounds.push(
      ...cornerRadii(s.corners, this.aspect, (x, y) => {
        const i = Math.floor(x);
        const j = Math.floor(y);
        const k = (j * picture.width + i) * picture.channels;
        return i >= 0 && j >= 0 && i < picture.width && j < picture.height
          ? [picture.data[k]! / this.max, picture.data[k + 1]! / this.max, picture.data[k + 2]! / this.max]
          : null;
      }),
    );
    const sigma = edgeSpread(this.luma(s.picture), s.corners, s.moves);
    if (Number.isFinite(sigma)) this.spreads.push({ frame: s.frame, sigma });
  }

  private extremesOf(picture: Raster): readonly [number, number] {
    const all: number[] = [];
    const step = Math.max(2, Math.round(Math.sqrt((picture.width * picture.height) / MATCH.glances / 4)));
    for (let y = 0; y < picture.height - 1; y += step)
      for (let x = 0; x < picture.width - 1; x += step)
        all.push(
          (luminance(...this.light(picture, x, y)) +
            luminance(...this.light(picture, x + 1, y)) +
            luminance(...this.light(picture, x, y + 1)) +
            luminance(...this.light(picture, x + 1, y + 1))) /
            4,
        );
    return [quantile(all, 1 - MATCH.brightestShare), quantile(all, MATCH.brightestShare)];
  }

  private light(picture: Raster, x: number, y: number): [number, number, number] {
    const k = (y * picture.width + x) * picture.channels;
    const { data } = picture;
    return [this.decode[data[k]!]!, this.decode[data[k + 1]!]!, this.decode[data[k + 2]!]!];
  }

  /**
   * Light of places around the pin, each the mean of four pixels so that noise makes no blacks and whites of its own.
   */
  private surroundings(picture: Raster, corners: Quad, most: number): number[][] {
    const b = boundsOf(corners);
    const size = Math.max(b.x1 - b.x0, b.y1 - b.y0);
    const wide = MATCH.around * size;
    const x0 = Math.max(0, Math.floor(b.x0 - wide));
    const y0 = Math.max(0, Math.floor(b.y0 - wide));
    const x1 = Math.min(picture.width - 2, Math.ceil(b.x1 + wide));
    const y1 = Math.min(picture.height - 2, Math.ceil(b.y1 + wide));
    const out: number[][] = [];
    const step = Math.max(2, Math.ceil(Math.sqrt(Math.max(1, (x1 - x0) * (y1 - y0)) / most)));
    for (let y = y0; y < y1; y += step)
      for (let x = x0; x < x1; x += step) {
        if (insidePolygon([x, y], corners)) continue;
        const p = [
          this.light(picture, x, y),
          this.light(picture, x + 1, y),
          this.light(picture, x, y + 1),
          this.light(picture, x + 1, y + 1),
        ];
        out.push([0, 1, 2].map((c) => p.reduce((s, v) => s + v[c]! / 4, 0)));
      }
    return out;
  }

  private glass(picture: Raster, corners: Quad): Float32Array {
    const out = new Float32Array(this.columns * this.rows * 3).fill(NaN);
    const h = unitSquareToQuad(corners);
    for (let j = 0; j < this.rows; j++)
      for (let i = 0; i < this.columns; i++) {
        const sum = [0, 0, 0];
        let n = 0;
        for (let p = 0; p < 9; p++) {
          const s = (i + ((p % 3) + 0.5) / 3) / this.columns;
          const t = (j + (Math.floor(p / 3) + 0.5) / 3) / this.rows;
          const w = h[6]! * s + h[7]! * t + h[8]!;
          const x = Math.floor((h[0]! * s + h[1]! * t + h[2]!) / w);
          const y = Math.floor((h[3]! * s + h[4]! * t + h[5]!) / w);
          if (!(x >= 0 && y >= 0 && x < picture.width && y < picture.height)) continue;
          const l = this.light(picture, x, y);
          for (let c = 0; c < 3; c++) sum[c]! += l[c]!;
          n++;
          if (p === 4) {
            const k = (y * picture.width + x) * picture.channels;
            this.inside.push([
              picture.data[k]! / this.max,
              picture.data[k + 1]! / this.max,
              picture.data[k + 2]! / this.max,
            ]);
          }
        }
        if (n >= 5) for (let c = 0; c < 3; c++) out[(j * this.columns + i) * 3 + c] = sum[c]! / n;
      }
    return out;
  }

  private noise(picture: Raster, corners: Quad): MeasuredGrain {
    const b = boundsOf(corners);
    const size = Math.max(b.x1 - b.x0, b.y1 - b.y0);
    const wide = MATCH.around * size;
    const x0 = Math.max(0, Math.floor(b.x0 - wide));
    const y0 = Math.max(0, Math.floor(b.y0 - wide));
    const width = Math.min(picture.width, Math.ceil(b.x1 + wide)) - x0;
    const height = Math.min(picture.height, Math.ceil(b.y1 + wide)) - y0;
    const pixels = new Float32Array(Math.max(0, width * height * 3));
    for (let y = 0, o = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        for (let c = 0, k = ((y + y0) * picture.width + x + x0) * picture.channels; c < 3; c++)
          pixels[o++] = picture.data[k + c]! / this.max;
    return measureGrain(pixels, width, height);
  }

  private luma(picture: Raster): Luma {
    const { width, height, channels, data } = picture;
    const out = new Float32Array(width * height);
    const k = 255 / this.max;
    for (let i = 0, p = 0; i < out.length; i++, p += channels)
      out[i] = k * luminance(data[p]!, data[p + 1]!, data[p + 2]!);
    return { width, height, data: out };
  }

  /** Per frame from the frames that told, joined by straight lines. */
  private perFrame(list: readonly { frame: number; value: number }[]): { from: number; values: number[] } {
    const sorted = [...list].sort((a, b) => a.frame - b.frame);
    const from = sorted[0]!.frame;
    const values: number[] = [];
    for (let i = 0, n = from; n <= sorted.at(-1)!.frame; n++) {
      while (i + 1 < sorted.length && sorted[i + 1]!.frame <= n) i++;
      const a = sorted[i]!;
      const b = sorted[i + 1] ?? a;
      const t = b.frame === a.frame ? 0 : (n - a.frame) / (b.frame - a.frame);
      values.push(round(a.value + t * (b.value - a.value), 3));
    }
    return { from, values };
  }

  /**
   * The picture's light against its running median; steady where its two halves do not agree, since then it is chance.
   */
  private flicker(): { frame: number; value: number }[] {
    const quick = ([0, 1] as const).map((h) =>
      this.lights.map(
        ({ halves }, i) =>
          halves[h] -
          median(
            this.lights.slice(Math.max(0, i - MATCH.flickerSpan), i + MATCH.flickerSpan + 1).map((l) => l.halves[h]),
          ),
      ),
    );
    const [a, b] = quick as [number[], number[]];
    const dot = (x: readonly number[], y: readonly number[]): number => x.reduce((s, v, i) => s + v * y[i]!, 0);
    const agree = dot(a, b) / Math.max(1e-12, Math.sqrt(dot(a, a) * dot(b, b)));
    return this.lights.map(({ frame }, i) => ({
      frame,
      value: agree > MATCH.agree ? Math.exp((a[i]! + b[i]!) / 2) : 1,
    }));
  }

  /** The picture's light by frame against the reference frame's, where its exposure changes; null where it does not. */
  private exposure(): { frame: number; value: number }[] | null {
    const middle = this.lights.map(({ halves }) => (halves[0] + halves[1]) / 2);
    const range = middle.length > 0 ? quantile(middle, 0.98) - quantile(middle, 0.02) : 0;
    const reference = this.lights.findIndex((l) => l.frame >= this.referenceFrame);
    if (
      range < MATCH.exposure ||
      this.lights.some(({ halves }) => Math.abs(halves[0] - halves[1]) > MATCH.apart * range)
    )
      return null;
    const own = middle[Math.max(0, reference)]!;
    return this.lights.map(({ frame }, i) => ({ frame, value: Math.exp(middle[i]! - own) }));
  }

  /** Light below which a share of what the old screen shows lies; NaN where it tells nothing. */
  private shownLight(share: number): number {
    const lightOf = (v: number): number => this.decode[Math.round(v * this.max)]!;
    if (this.inside.length < MATCH.enoughInside) return NaN;
    return quantile(
      this.inside.map((p) => luminance(lightOf(p[0]!), lightOf(p[1]!), lightOf(p[2]!))),
      share,
    );
  }

  /** A screen that shows one colour is as dark as its weakest channel in the other two; Infinity for others. */
  private colourBlack(isKeyed: boolean, colour: Rgb): number {
    return isKeyed ? this.decode[Math.round(Math.min(...colour) * this.max)]! : Infinity;
  }

  /**
   * How thick marks drawn on the screen are, with their soft edges, px of the plate; 0 where there are none: small
   * islands of another colour that touch no side.
   */
  private marks(colour: Rgb, least: number): number {
    if (!this.marked) return 0;
    const { picture, corners } = this.marked;
    const h = unitSquareToQuad(corners);
    const long = Math.max(this.columns, this.rows);
    const w = Math.round((MATCH.markCells * this.columns) / long);
    const n = Math.round((MATCH.markCells * this.rows) / long);
    const other = new Uint8Array(w * n);
    for (let j = 0; j < n; j++)
      for (let i = 0; i < w; i++) {
        const s = (i + 0.5) / w;
        const t = (j + 0.5) / n;
        const z = h[6]! * s + h[7]! * t + h[8]!;
        const x = Math.floor((h[0]! * s + h[1]! * t + h[2]!) / z);
        const y = Math.floor((h[3]! * s + h[4]! * t + h[5]!) / z);
        const k = (y * picture.width + x) * picture.channels;
        if (x >= 0 && y >= 0 && x < picture.width && y < picture.height)
          other[j * w + i] =
            keyStrength(
              colour,
              picture.data[k]! / this.max,
              picture.data[k + 1]! / this.max,
              picture.data[k + 2]! / this.max,
            ) < least
              ? 1
              : 0;
      }
    const b = boundsOf(corners);
    const cell = Math.max(b.x1 - b.x0, b.y1 - b.y0) / MATCH.markCells;
    const thick = islands(other, w, n)
      .filter(
        (m) =>
          !m.touches &&
          Math.max(m.width, m.height) <= MATCH.markMost * MATCH.markCells &&
          Math.max(m.width, m.height) >= MATCH.markLeast * MATCH.markCells,
      )
      .map((m) => m.area / Math.max(1, m.width + m.height - 1));
    return thick.length > 0 ? Math.ceil(Math.max(...thick) * cell * 1.6 + 5) : 0;
  }

  /** @param shutter share of a frame's time, null where it is not known */
  proposals(shutter: number | null): Proposal[] {
    const out: Proposal[] = [];
    const shown = CURVES[this.transfer].encode;
    const percent = (l: number): string => `${Math.round(100 * shown(Math.max(0, l)))} %`;
    const own: GlassLight | null = this.cells.length > 0 ? glassLight(this.cells, this.columns, this.rows) : null;
    const colour = [0, 1, 2].map((c) => median(this.inside.map((p) => p[c]!))) as unknown as Rgb;
    const kind = screenKind({ own, moments: this.cells, colour, shown });
    const shows = kind === 'picture';
    const coloured = kind === 'keyed';
    const dark = kind === 'dark';
    if (this.around.length >= 50) {
      const exposure = this.exposure();
      const exposed = new Map(exposure?.map((e) => [e.frame, e.value]));
      const around = this.around.map(({ frame, light }) => light.map((v) => v / (exposed.get(frame) ?? 1)));
      const extremes = this.extremes.map(({ frame, range }) => range.map((v) => v / (exposed.get(frame) ?? 1)));
      const lights = around.map((p) => luminance(p[0]!, p[1]!, p[2]!));
      const low = quantile(lights, MATCH.blackShare);
      const high = Math.max(quantile(lights, MATCH.whiteShare), median(extremes.map((e) => e[1]!)));
      const darkest = median(extremes.map((e) => e[0]!));
      const meanOf = (pick: (l: number) => boolean): Rgb => {
        const of = around.filter((_, i) => pick(lights[i]!));
        return [0, 1, 2].map((c) =>
          round(of.reduce((s, p) => s + p[c]!, 0) / Math.max(1, of.length)),
        ) as unknown as Rgb;
      };
      // How bright the old screen shows its colour tells how bright it would show white; a chroma green or blue is
      // drawn at about 70 % of its channel (common practice, no source).
      const lit = coloured
        ? this.decode[Math.round(this.max * Math.max(...colour))]! / this.decode[Math.round(0.7 * this.max)]!
        : 0;
      const glassBlack =
        own && dark
          ? ([0, 1, 2].map((c) => round(median(own.values.filter((_, k) => k % 3 === c)))) as unknown as Rgb)
          : null;
      const near = meanOf((l) => l <= low);
      const deepest = Math.min(darkest, MATCH.haze);
      const beside: Rgb = deepest < luminance(...near) ? [round(deepest), round(deepest), round(deepest)] : near;
      const screen = shows
        ? beyondShown(this.shownLight(MATCH.blackShare), deepest)
        : this.colourBlack(coloured, colour);
      // What the old screen itself shows darker than the plate around it, this screen can show too.
      const black =
        glassBlack ??
        (screen < luminance(...beside) ? ([round(screen), round(screen), round(screen)] as const) : beside);
      const top = round(
        Math.min(1, Math.max(high, lit, shows ? this.shownLight(MATCH.whiteShare) || 0 : 0, MATCH.lamp)),
      );
      const flicker = exposure ?? this.flicker();
      const depth =
        quantile(
          flicker.map((f) => f.value),
          0.95,
        ) -
        quantile(
          flicker.map((f) => f.value),
          0.05,
        );
      const stops = exposure
        ? Math.log2(Math.max(...flicker.map((f) => f.value)) / Math.min(...flicker.map((f) => f.value)))
        : 0;
      let source = 'the old screen goes down to';
      if (glassBlack) source = 'the dark glass shows';
      else if (black === beside) source = beside === near ? 'the darkest about the Screen is' : 'black is taken at';
      let change = '';
      if (exposure) change = `; the exposure changes by ${stops.toFixed(1)} stops`;
      else if (depth > MATCH.flicker) change = `; the light flickers by ${Math.round(100 * depth)} %`;
      out.push({
        part: 'levels',
        told: `${source} ${percent(luminance(...black))}, the brightest of the shot ${percent(high)}${lit > 0 ? `; the screen would show white at ${percent(Math.min(1, lit))}` : ''}${change}`,
        recipe: {
          levels: {
            black,
            white: [top, top, top],
            ...(depth > MATCH.flicker ? { sync: 1, measured: this.perFrame(flicker) } : {}),
          },
        },
      });
    }
    if (this.spreads.length > 0) {
      const middle = median(this.spreads.map((s) => s.sigma));
      out.push({
        part: 'softness',
        told: `the glass edges are soft by a sigma of ${middle.toFixed(2)} px (told on ${this.spreads.length} ${this.spreads.length === 1 ? 'frame' : 'frames'})`,
        recipe: {
          softness: {
            amount: 1,
            measured: this.perFrame(this.spreads.map((s) => ({ frame: s.frame, value: s.sigma }))),
          },
        },
      });
    }
    out.push({
      part: 'motionBlur',
      told:
        shutter === null
          ? 'the shutter could not be told; 180 degrees are taken'
          : `the shutter is open for ${Math.round(360 * shutter)} degrees`,
      recipe: {
        motionBlur: { on: true, ...(shutter === null ? { shutter: 180 } : { shutter: Math.round(360 * shutter) }) },
      },
    });
    if (this.rounds.length >= MATCH.enoughRound) {
      const radius = median(this.rounds);
      const share = radius / Math.min(1, this.aspect);
      const agree = this.rounds.filter((r) => Math.abs(r - radius) < 0.35 * radius + 0.006).length / this.rounds.length;
      if (share > MATCH.leastRound && share < MATCH.mostRound && agree > 0.6)
        out.push({
          part: 'edge',
          told: `the glass is rounded at its corners by ${(100 * share).toFixed(1)} % of its shorter side`,
          recipe: { edge: { radius: round(share, 3) } },
        });
    }
    const told = this.grains.filter((g) => g.levels.length > 0);
    if (told.length > 0) {
      const best = told.sort((a, b) => b.levels.length - a.levels.length)[0]!;
      const same = told.filter((g) => g.levels.length === best.levels.length);
      const of = (pick: (g: MeasuredGrain) => number): number => median(same.map(pick));
      const measured: MeasuredGrain = {
        levels: best.levels.map((_, i) => round(of((g) => g.levels[i]!))),
        sigma: [0, 1, 2].map((c) =>
          best.levels.map((_, i) =>
            round(
              of((g) => g.sigma[c]![i]!),
              5,
            ),
          ),
        ),
        size: round(
          of((g) => g.size),
          2,
        ),
      };
      out.push({
        part: 'grain',
        told: `noise of ${(255 * median(measured.sigma[1]!)).toFixed(1)} of 255 levels, ${measured.size < 0.2 ? 'as fine as the pixels' : `blurred by ${measured.size.toFixed(1)} px`}`,
        recipe: { grain: { amount: 1, measured } },
      });
    }
    if (own && dark)
      out.push({
        part: 'glare',
        told: `light on the glass is kept beyond its own ${percent(median(own.values))}`,
        recipe: { glare: { keep: 1, soften: 1.5, measured: own } },
      });
    if (!dark)
      out.push({
        part: 'rim',
        told: 'the old screen is lit: its light over the glass edge is replaced by what lies beyond',
        recipe: { rim: { on: true } },
      });
    if (coloured) {
      const strengths = this.inside.map((p) => keyStrength(colour, p[0]!, p[1]!, p[2]!));
      const solid = round(Math.max(0.35, quantile(strengths, 0.3) - 0.22), 2);
      out.push({
        part: 'holdouts',
        told: `what is not the screen's colour (${colour.map((v) => Math.round(255 * v)).join(' ')}) stays in front`,
        recipe: {
          holdouts: [
            {
              kind: 'key',
              colours: [colour.map((v) => round(v, 3)) as unknown as Rgb],
              gone: round(solid * 0.45, 2),
              solid,
              softness: 1,
              crosses: this.marks(colour, solid * 0.7),
            },
          ],
        },
      });
      out.push({
        part: 'spill',
        told: 'its light is taken off what stands around it',
        recipe: {
          spill: { colour: colour.map((v) => round(v, 3)) as unknown as Rgb, amount: 1, recolour: 0.3, reach: 60 },
        },
      });
    }
    return out;
  }
}
