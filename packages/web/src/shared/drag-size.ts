/**
 * How large pictures are made while something is dragged: as large as keeps up with the hand. A machine that is too slow
 * for that gets smaller ones, and larger ones again as soon as it has time to spare.
 */
import { mean } from '@yarlop/core/statistics';

/** Shares of the usual size, the usual one first. By trial. */
const SHARES = [1, 0.75, 0.55] as const;
/** ms that one picture may take where one is made at a time: 25 a second, with what showing it takes. */
const MOST_MS = 36;
/** Share of that which leaves time for the next larger ones. By trial. */
const SPARE = 0.4;
/** What each further thread adds to that time, a share: they share two cores with the page. By trial. */
const PER_THREAD = 0.5;
/** Pictures in a row of which the mean is taken. By trial. */
const COUNTED = 5;

export class DragSize {
  private step = 0;
  private taken: number[] = [];
  private readonly most: number;

  /** @param threads that make pictures at the same time */
  constructor(threads = 1) {
    this.most = MOST_MS * (1 + PER_THREAD * (threads - 1));
  }

  /** Of the usual size, 0 to 1. */
  get share(): number {
    return SHARES[this.step]!;
  }

  /** A picture of a drag was made. @param ms that it took */
  made(ms: number): void {
    this.taken.push(ms);
    if (this.taken.length < COUNTED) return;
    const usual = mean(this.taken);
    this.taken = [];
    if (usual > this.most) this.step = Math.min(this.step + 1, SHARES.length - 1);
    if (usual < SPARE * this.most) this.step = Math.max(this.step - 1, 0);
  }
}
