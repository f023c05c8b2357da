/**
 * Match all: what the plate tells of how a fill must look to sit in it. Frames are shown to it one by one; in the end
 * it proposes parts of a dress, each with what was measured, to be taken or refused one by one.
 */
import { unitSquareToQuad } from '../geometry/homography';
import type { Lens } from '../geometry/lens';
import type { Point } from '../geometry/point';
import { boundsOf, insidePolygon } from '../geometry/polygon';
import type { Quad } from '../geometry/quad';
import type { Luma, Raster } from '../image/image';
import { luminance } from '../image/luminance';
import { median, quantile } from '../statistics';
import { cornerRadii } from './shape/corner-radius';
import { edgeSpread } from './light/edge-spread';
import { FrontSearch } from './front/front-search';
import { glassLight } from './light/glare';
import type { MeasuredGrain } from './light/grain';
import { measureGrain } from './light/grain';
import type { Rgb } from './colour/levels';
import { ESTIMATES } from './match/estimates';
import type { MatchEvidence } from './match/evidence';
import type { Proposal } from './match/proposal';
import { screenKind } from './holdout/screen-kind';
import type { Transfer } from './colour/transfer';
import { CURVES, decodingTable } from './colour/transfer';

export { PARTS } from './match/proposal';
export type { Proposal } from './match/proposal';

export interface Sample {
  readonly frame: number;
  readonly picture: Raster;
  readonly corners: Quad;
  /** px that a point moves while the shutter is open */
  readonly moves?: (at: Point) => Point;
  /** that bows the picture */
  readonly lens?: Lens | null;
}

const MATCH = {
  /** Cells of the glass's own light, along its longer side. By trial. */
  cells: 24,
  /** Quantile of the whole picture that stands for its brightest. By trial. */
  brightestShare: 0.998,
  /** Of the screen's size; how far its surroundings reach. By trial. */
  around: 0.35,
  /** px of the surroundings that are sampled. By trial. */
  mostAround: 6000,
  /** px at which every frame is glanced at. By trial. */
  glances: 4000,
} as const;

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
  private readonly fronts: FrontSearch;

  constructor(
    private readonly max: number,
    private readonly transfer: Transfer,
    private readonly aspect: number,
    private readonly referenceFrame: number,
  ) {
    this.fronts = new FrontSearch(aspect);
    this.decode = decodingTable(max, transfer);
    this.columns = aspect >= 1 ? MATCH.cells : Math.max(4, Math.round(MATCH.cells * aspect));
    this.rows = aspect >= 1 ? Math.max(4, Math.round(MATCH.cells / aspect)) : MATCH.cells;
  }

  /**
   * How a frame's light differs from the one before, for its flicker, and what stands before the Screen: cheap enough for
   * every frame, which come in order.
   */
  glance({ frame, picture, corners, lens = null }: Sample): void {
    this.fronts.see(frame, picture, corners, lens);
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

  /** @param shutter share of a frame's time, null where it is not known */
  proposals(shutter: number | null): Proposal[] {
    const evidence = this.evidence(shutter);
    return ESTIMATES.flatMap((estimate) => estimate(evidence) ?? []);
  }

  private evidence(shutter: number | null): MatchEvidence {
    const { cells, columns, rows, inside } = this;
    const shown = CURVES[this.transfer].encode;
    const own = cells.length > 0 ? glassLight(cells, columns, rows) : null;
    const colour = [0, 1, 2].map((c) => median(inside.map((p) => p[c]!))) as unknown as Rgb;
    const kind = screenKind({ own, moments: cells, colour, shown });
    return {
      max: this.max,
      decode: this.decode,
      shown,
      aspect: this.aspect,
      referenceFrame: this.referenceFrame,
      columns,
      rows,
      around: this.around,
      extremes: this.extremes,
      cells,
      inside,
      grains: this.grains,
      rounds: this.rounds,
      spreads: this.spreads,
      lights: this.lights,
      marked: this.marked,
      shutter,
      own,
      colour,
      kind,
      // What stands before a screen of one colour is told by that.
      fronts: kind === 'keyed' ? null : this.fronts.found(),
    };
  }
}
