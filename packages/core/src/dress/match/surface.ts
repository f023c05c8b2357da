/** What lies on the picture and on the glass: noise, kept light, the old screen's glow over its edge. */
import { median } from '../../statistics';
import type { MeasuredGrain } from '../light/grain';
import type { MatchEvidence } from './evidence';
import { percent } from './evidence';
import type { Proposal } from './proposal';
import { round } from './proposal';

/** px; noise that is blurred by less is as fine as the pixels. By trial. */
const FINE = 0.2;

/** The middle of what frames told that saw the most levels. */
function middleOf(told: readonly MeasuredGrain[]): MeasuredGrain {
  const most = Math.max(...told.map((g) => g.levels.length));
  const same = told.filter((g) => g.levels.length === most);
  const of = (pick: (g: MeasuredGrain) => number, digits?: number): number => round(median(same.map(pick)), digits);
  const levels = same[0]!.levels.map((_, i) => of((g) => g.levels[i]!));
  return {
    levels,
    sigma: [0, 1, 2].map((c) => levels.map((_, i) => of((g) => g.sigma[c]![i]!, 5))),
    size: of((g) => g.size, 2),
  };
}

/** Noise of the plate; null where no level told of it. */
export function grain({ grains }: MatchEvidence): Proposal | null {
  const told = grains.filter((g) => g.levels.length > 0);
  if (told.length === 0) return null;
  const measured = middleOf(told);
  const size = measured.size < FINE ? 'as fine as the pixels' : `blurred by ${measured.size.toFixed(1)} px`;
  return {
    part: 'grain',
    told: `noise of ${(255 * median(measured.sigma[1]!)).toFixed(1)} of 255 levels, ${size}`,
    recipe: { grain: { amount: 1, measured } },
  };
}

/** Light that stays on dark glass; null for lit screens. */
export function glare(e: MatchEvidence): Proposal | null {
  const { own, kind } = e;
  if (!own || kind !== 'dark') return null;
  return {
    part: 'glare',
    told: `light on the glass is kept beyond its own ${percent(e, median(own.values))}`,
    recipe: { glare: { keep: 1, soften: 1.5, measured: own } },
  };
}

/** The rim of a lit screen; null for dark glass. */
export function rim({ kind }: MatchEvidence): Proposal | null {
  if (kind === 'dark') return null;
  return {
    part: 'rim',
    told: 'the old screen is lit: its light over the glass edge is replaced by what lies beyond',
    recipe: { rim: { on: true } },
  };
}
