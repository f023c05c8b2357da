/** The figures of a Screen's track, as a report tells them. */
import type { Ranking } from '@yarlop/core/proof/ranking';
import { SEEN, WEAK_TRUST } from '@yarlop/core/proof/verdict';
import { median } from '@yarlop/core/statistics';
import type { SolvedFrame } from '../types';

export interface Figures {
  readonly frames: number;
  readonly told: readonly { readonly what: string; readonly value: string }[];
  /** what wants a look, the worst first */
  readonly worst: readonly Wanting[];
}

/** Frames next to each other, and what speaks against them. */
export interface Wanting {
  readonly from: number;
  readonly to: number;
  readonly why: string;
}

/** As many places as are named. */
const NAMED = 6;

const px = (v: number): string => `${v.toFixed(2)} px`;

const isWeak = (f: SolvedFrame): boolean => f.trust < WEAK_TRUST;

/** Stretches on which a track is not sure of itself, the least sure first. */
function leastSure(frames: readonly SolvedFrame[]): Wanting[] {
  const stretches: { from: number; to: number; trust: number }[] = [];
  for (const { frame, trust } of frames.filter(isWeak).sort((a, b) => a.frame - b.frame)) {
    const last = stretches.at(-1);
    if (last?.to !== frame - 1) stretches.push({ from: frame, to: frame, trust });
    else Object.assign(last, { to: frame, trust: Math.min(last.trust, trust) });
  }
  return stretches
    .sort((a, b) => a.trust - b.trust)
    .map(({ from, to, trust }) => ({ from, to, why: `trust ${trust.toFixed(2)}` }));
}

function troublesOf({ troubles }: Ranking): Wanting[] {
  return troubles
    .filter((t) => t.size > SEEN)
    .map((t) => ({ from: t.frame, to: t.frame, why: `${t.kind} of ${px(t.size)}` }));
}

/** The frames that want a look are named once, for what weighs most there. */
function once(list: readonly Wanting[]): Wanting[] {
  const isNamed = (w: Wanting, i: number): boolean => list.slice(0, i).some((o) => o.from >= w.from && o.to <= w.to);
  return list.filter((w, i) => !isNamed(w, i)).slice(0, NAMED);
}

/** As a sentence names it. */
export function placeText({ from, to }: Wanting): string {
  return from === to ? `frame ${from}` : `frames ${from} to ${to}`;
}

/** @param o.scale px of the plate to px of a picture 1920 wide */
export function figuresOf(o: {
  readonly frames: readonly SolvedFrame[];
  readonly ranking: Ranking | null;
  readonly scale: number;
}): Figures {
  const { frames, ranking, scale } = o;
  const sigmas = frames.flatMap((f) => f.sigma.map((s) => s * scale));
  const told = [
    { what: 'Frames followed', value: String(frames.length) },
    { what: 'Weak frames', value: String(frames.filter(isWeak).length) },
    { what: 'Median trust', value: frames.length > 0 ? median(frames.map((f) => f.trust)).toFixed(2) : '-' },
    { what: 'Median sigma', value: sigmas.length > 0 ? px(median(sigmas)) : '-' },
    { what: 'Jitter', value: ranking && Number.isFinite(ranking.jitter) ? px(ranking.jitter) : 'not measured' },
    { what: 'Corners compared', value: ranking ? `${Math.round(100 * ranking.told)} %` : 'not measured' },
  ];
  return { frames: frames.length, told, worst: once([...(ranking ? troublesOf(ranking) : []), ...leastSure(frames)]) };
}
