/** Where a frame shows something else than a plane usually does. */
import { extendBy } from '../base/extend';
import type { CellField } from './cell-field';
import type { SeenCells } from './front-light';
import { inUsualLight } from './front-light';
import type { FrontModel } from './front-model';
import { isKnown } from './front-model';

const DIFFERS = {
  /** Sigmas, and levels of 255, by which a cell must differ to begin a piece. By trial. */
  sure: { sigmas: 6, levels: 10 },
  /** And to belong to one. By trial. */
  likely: { sigmas: 3.5, levels: 5 },
  /** Of a cell's neighbours that must differ too: thinner are lines of a picture that lies a little beside its place. */
  beside: 0.5,
} as const;

/** Cells of a frame: 0 as usual, 1 likely something else, 2 surely; and what they show. */
export interface Differing {
  readonly likely: Uint8Array;
  /** by how many levels of 255 each differs */
  readonly far: Float32Array;
  /** in usual light, RGB, levels of 255; NaN where they are not seen */
  readonly levels: Float32Array;
  /** 1 for cells of which it is told at all */
  readonly isTold: Uint8Array;
  /** see `SeenCells` */
  readonly margin: number;
}

/** The least and the most that each cell may show of a channel. */
interface Limits {
  readonly low: Float32Array;
  readonly high: Float32Array;
}

/** What a plane's cells may show while it moves: what is around them is smeared over them. */
export class Expected {
  private readonly limits = new Map<number, readonly Limits[]>();

  constructor(
    private readonly model: FrontModel,
    private readonly field: CellField,
  ) {}

  /** How a frame differs. */
  differences({ frame, cells, smear, margin }: SeenCells): Differing {
    const { sigma, gains } = this.model;
    const limits = this.limitsOf(smear);
    const levels = inUsualLight(cells, gains.get(frame)!);
    const likely = new Uint8Array(this.field.count);
    const far = new Float32Array(likely.length);
    const isTold = new Uint8Array(likely.length);
    for (let k = 0; k < likely.length; k++) {
      let sigmas = 0;
      for (let c = 0; c < 3; c++) {
        const v = levels[3 * k + c]!;
        if (limits[c]!.high[k]! < Infinity && !Number.isNaN(v)) isTold[k] = 1;
        const d = Math.max(v - limits[c]!.high[k]!, limits[c]!.low[k]! - v);
        if (!(d > 0)) continue;
        far[k] = Math.max(far[k]!, d);
        sigmas = Math.max(sigmas, d / sigma[3 * k + c]!);
      }
      likely[k] = certainty(sigmas, far[k]!);
    }
    return { likely: this.withoutThreads(likely), far, levels, isTold, margin };
  }

  /** @param reach cells by which the plane's picture is smeared to each side */
  private limitsOf(reach: number): readonly Limits[] {
    const known = this.limits.get(reach);
    if (known) return known;
    const made = [0, 1, 2].map((c) => ({ low: this.limit(c, reach, false), high: this.limit(c, reach, true) }));
    this.limits.set(reach, made);
    return made;
  }

  private limit(c: number, reach: number, isHigh: boolean): Float32Array {
    const { width, height, count } = this.field;
    const unknown = isHigh ? Infinity : -Infinity;
    // What lies beyond the field is not known, and comes in.
    const isNearBorder = (k: number): boolean => {
      const x = k % width;
      const y = (k - x) / width;
      return Math.min(x, y, width - 1 - x, height - 1 - y) < reach;
    };
    const out = Float32Array.from({ length: count }, (_, k) =>
      isKnown(this.model, 3 * k + c) && !isNearBorder(k) ? this.model.usual[3 * k + c]! : unknown,
    );
    extendBy(out, width, height, reach, isHigh);
    return out;
  }

  private withoutThreads(likely: Uint8Array): Uint8Array {
    const isOn = (n: number): boolean => likely[n]! > 0;
    return likely.map((v, k) =>
      v > 0 && this.field.countBeside(k, isOn) >= DIFFERS.beside * this.field.countBeside(k, () => true) ? v : 0,
    );
  }
}

function certainty(sigmas: number, levels: number): number {
  const { sure, likely } = DIFFERS;
  if (sigmas > sure.sigmas && levels > sure.levels) return 2;
  return sigmas > likely.sigmas && levels > likely.levels ? 1 : 0;
}

/** Cells of which it is sure that they show even glass. */
export function showsGlass({ usual, isEven }: FrontModel, levels: Float32Array, cell: number): boolean {
  if (!isEven) return false;
  for (let c = 3 * cell; c < 3 * cell + 3; c++)
    if (!(Math.abs(levels[c]! - usual[c]!) <= DIFFERS.likely.levels)) return false;
  return true;
}
