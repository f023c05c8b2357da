/** The doubtful frames of a run, in stretches: the one that is open, and those that wait for their second look. */
import type { Quad } from '../../geometry/quad';
import type { FollowerState } from './follower-state';
import type { Placed, Seen, Stretch } from './stretch';
import { NO_STRETCH, after, amended, isAstray, isClosed, withCorners, withFrame } from './stretch';

/** What a follower doubts. */
export class Doubts {
  private open: Stretch;
  private waiting: readonly Stretch[] = [];

  /** @param first where the Screen is known to be, before any frame was followed */
  constructor(first: Placed) {
    this.open = { ...NO_STRETCH, before: [first] };
  }

  /** See `stretch.ts`. */
  get isAstray(): boolean {
    return isAstray(this.open);
  }

  get state(): Pick<FollowerState, 'stretch' | 'waiting'> {
    return { stretch: this.open, waiting: this.waiting };
  }

  restore({ stretch, waiting }: Pick<FollowerState, 'stretch' | 'waiting'>): void {
    this.open = stretch ?? NO_STRETCH;
    this.waiting = waiting ?? [];
  }

  /** A frame was followed. */
  note(seen: Seen): void {
    this.open = withFrame(this.open, seen);
  }

  /** A frame was followed again, from elsewhere. */
  amend(frame: number, corners: Quad, trust: number): void {
    this.open = amended(this.open, frame, corners, trust);
    this.waiting = this.waiting.map((s) => amended(s, frame, corners, trust));
  }

  /** All places are told anew. */
  move(to: (corners: Quad) => Quad): void {
    this.open = withCorners(this.open, to);
    this.waiting = this.waiting.map((s) => withCorners(s, to));
  }

  /** Ends the open stretch, where what lies beyond it is known. @param last no further frame will come */
  close(last: boolean): void {
    if (!isClosed(this.open, last)) return;
    this.waiting = [...this.waiting, this.open];
    this.open = after(this.open);
  }

  /** The stretch that has waited longest, which waits no more; null when none does. */
  take(): Stretch | null {
    const [first = null, ...rest] = this.waiting;
    this.waiting = rest;
    return first;
  }

  /** What comes next has nothing to do with what came before. */
  beginAnew(before: readonly Placed[]): void {
    this.open = { ...NO_STRETCH, before };
  }
}
