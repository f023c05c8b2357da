/**
 * What is mirrored in the glass beside what stands before it: it is known by its colours from where it lies alone. Where
 * both lie side by side they would be taken for one piece.
 */
import type { CellField } from './cell-field';

const MIRRORED = {
  /** Levels of 255 of a bin of colours. By trial. */
  bin: 16,
  /** Cells that must lie alone for their colours to be told. By trial. */
  least: 200,
  /** Share of what lies alone that a colour must have. By trial. */
  typical: 0.02,
  /** Times that a colour must be likelier of what is mirrored. By trial. */
  likelier: 3,
  /** Of a cell's neighbours in a mask that must be mirrored too, or else in front. By trial. */
  beside: 0.5,
} as const;

const BINS = Math.ceil(256 / MIRRORED.bin);

/** How often colours were met. */
class Colours {
  private readonly counts = new Float32Array(BINS ** 3);
  total = 0;

  add(levels: Float32Array, cell: number): void {
    this.counts[binOf(levels, cell)]!++;
    this.total++;
  }

  share(levels: Float32Array, cell: number): number {
    return this.total > 0 ? this.counts[binOf(levels, cell)]! / this.total : 0;
  }
}

function binOf(levels: Float32Array, cell: number): number {
  const bin = (c: number): number => Math.min(BINS - 1, Math.max(0, Math.floor(levels[3 * cell + c]! / MIRRORED.bin)));
  return (bin(0) * BINS + bin(1)) * BINS + bin(2);
}

/** A frame: what differs from usual, what of it was taken for a front, and what it shows. */
export interface Parted {
  readonly likely: Uint8Array;
  readonly levels: Float32Array;
  readonly mask: Uint8Array;
  /** cells beyond the glass's edge that may still show it */
  readonly margin: number;
}

/** Cells about those beyond the edge in which there is nothing else than what reaches over it. */
const NEAR = 3;

/** Cells of a mask near where it reaches over the edge. */
function nearEdge({ mask, margin }: Parted, field: CellField): Uint8Array {
  let near: Uint8Array = mask.map((v, k) => (v && field.beyond[k]! >= margin ? 1 : 0));
  for (let i = 0; i < NEAR; i++) near = field.grown(near);
  return near.map((v, k) => (v && mask[k] ? 1 : 0));
}

/** Frames to both sides on which nothing may stand before the glass for what differs to be taken for mirrored. By trial. */
const ABOUT = 3;

/** Takes what is mirrored out of masks. */
export class Mirrored {
  private readonly alone = new Colours();
  private readonly fronts = new Colours();

  /** @param frames of a section, with what reaches over the glass's edge */
  constructor(
    frames: readonly Parted[],
    private readonly field: CellField,
  ) {
    const isFree = frames.map(({ mask }) => !mask.includes(1));
    for (const [i, frame] of frames.entries()) {
      const { likely, levels } = frame;
      const near = nearEdge(frame, field);
      const isAlone = isFree.slice(Math.max(0, i - ABOUT), i + ABOUT + 1).every(Boolean);
      for (let k = 0; k < field.count; k++) {
        if (near[k] && likely[k] === 2) this.fronts.add(levels, k);
        if (isAlone && likely[k] && field.inside[k]) this.alone.add(levels, k);
      }
    }
  }

  /** A mask without what is mirrored; as it is where nothing mirrored lies alone. */
  outOf(mask: Uint8Array, levels: Float32Array): Uint8Array {
    if (this.alone.total < MIRRORED.least) return mask;
    const { field } = this;
    const isMirrored = mask.map((v, k) => (v && field.inside[k] && this.isLikelier(levels, k) ? 1 : 0));
    if (!isMirrored.includes(1)) return mask;
    return mask.map((v, k) => {
      if (!v) return 0;
      const all = field.countBeside(k, (n) => mask[n] === 1);
      const alike = field.countBeside(k, (n) => isMirrored[n] === 1);
      return alike + isMirrored[k]! > MIRRORED.beside * (all + 1) ? 0 : 1;
    });
  }

  private isLikelier(levels: Float32Array, k: number): boolean {
    const alone = this.alone.share(levels, k);
    return alone > MIRRORED.typical && alone > MIRRORED.likelier * this.fronts.share(levels, k);
  }
}
