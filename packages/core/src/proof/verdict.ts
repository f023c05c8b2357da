/**
 * The verdict on a Screen's track, with its reasons: whether it holds, wants another look, or is not usable. Measured
 * slips count first; where there are none, what the solver says of itself.
 */
import type { Ranking } from './ranking';

export type Word = 'holds' | 'look again' | 'not usable';

export interface Verdict {
  readonly word: Word;
  /** sentences, the gravest first; empty when it holds */
  readonly reasons: readonly string[];
}

export interface Judged {
  /** frames of the track, and those on which nothing was measured */
  readonly frames: number;
  readonly bridged: number;
  /** frames of less than {@link WEAK_TRUST} */
  readonly weak: number;
  readonly halted: readonly { readonly frame: number; readonly reason: string }[];
  /** frames that were to be followed but are not there */
  readonly missing: number;
  /** of the slips with all corrections, where they were measured */
  readonly ranking: Ranking | null;
}

/** Trust below which a frame counts as weak. */
export const WEAK_TRUST = 0.5;
/** px at 1920 wide; a slip that a person sees. Common practice, no source. */
export const SEEN = 1;
/** px at 1920 wide; a slip that nobody can use. Common practice, no source. */
export const UNUSABLE = 4;
/** px; jitter that shows on a locked-off shot: a third of a px. Common practice, no source. */
export const JITTERS = 0.33;
const PROVEN = {
  /** Of the frames that may be weak. By trial. */
  weakShare: 0.15,
  /** Of the corners that must have been compared. By trial. */
  told: 0.1,
  /** Of the frames that may be bridged. By trial. */
  bridgedShare: 0.25,
} as const;

const frames = (n: number): string => `${n} ${n === 1 ? 'frame' : 'frames'}`;

/** What speaks against a track: what makes it unusable, and what is worth a look. */
interface Doubts {
  readonly bad: string[];
  readonly doubtful: string[];
}

function doubtSlips({ bad, doubtful }: Doubts, r: Ranking): void {
  const drifting = r.drift.filter((d) => d !== null && d > SEEN).length;
  const worst = r.troubles.find((t) => t.kind === 'drift');
  const pops = r.troubles.filter((t) => t.kind === 'pop' && t.size > SEEN);
  if (drifting > 0 && worst)
    (worst.size > UNUSABLE ? bad : doubtful).push(
      `It slips by up to ${worst.size.toFixed(1)} px (frame ${worst.frame}), by more than ${SEEN} px on ${frames(drifting)}.`,
    );
  if (pops.length > 0)
    doubtful.push(`It pops on ${frames(pops.length)}, by ${pops[0]!.size.toFixed(1)} px on frame ${pops[0]!.frame}.`);
  if (r.jitter > JITTERS)
    doubtful.push(`It jitters by ${r.jitter.toFixed(2)} px; settle it, or follow again with more of the plate.`);
  if (r.told < PROVEN.told) doubtful.push('Hardly a corner could be compared with its likeness: look for yourself.');
}

function doubtBridges({ bad, doubtful }: Doubts, bridged: number, all: number): void {
  if (bridged === 0) return;
  const isMuch = bridged > PROVEN.bridgedShare * all;
  const verb = bridged === 1 ? 'is' : 'are';
  (isMuch ? bad : doubtful).push(`${frames(bridged)} ${verb} bridged: the follower found nothing to go by there.`);
}

/** What is said of a track: whether it holds, and where to look. */
export function judge(j: Judged): Verdict {
  if (j.frames < 2) return { word: 'not usable', reasons: ['It is not followed yet.'] };
  const doubts: Doubts = { bad: [], doubtful: [] };
  const { bad, doubtful } = doubts;
  if (j.ranking) doubtSlips(doubts, j.ranking);
  for (const h of j.halted) bad.push(`Following halted at frame ${h.frame}: ${h.reason}`);
  if (j.missing > 0 && j.halted.length === 0)
    doubtful.push(`${frames(j.missing)} of the working range ${j.missing === 1 ? 'is' : 'are'} not followed.`);
  doubtBridges(doubts, j.bridged, j.frames);
  if (j.weak > PROVEN.weakShare * j.frames) doubtful.push(`${frames(j.weak)} rest on little.`);
  if (bad.length > 0) return { word: 'not usable', reasons: [...bad, ...doubtful] };
  if (doubtful.length > 0) return { word: 'look again', reasons: doubtful };
  return { word: 'holds', reasons: [] };
}
