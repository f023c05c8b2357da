/** A Screen of one colour: what stays in front of it, and its light on what is around. */
import { quantile } from '../../statistics';
import { coverOf } from '../front/found-cover';
import { keyStrength } from '../holdout/holdout';
import type { Rgb } from '../colour/levels';
import type { MatchEvidence } from './evidence';
import { marks } from './marks';
import type { Proposal } from './proposal';
import { round } from './proposal';

const rounded = (colour: Rgb): Rgb => colour.map((v) => round(v, 3)) as unknown as Rgb;

/** What stays in front: a key on the colour that the Screen shows, or what was found to stand before it. */
export function holdouts(e: MatchEvidence): Proposal | null {
  return e.kind === 'keyed' ? keyed(e) : found(e);
}

function found({ fronts }: MatchEvidence): Proposal | null {
  if (!fronts) return null;
  const { frames, most } = coverOf(fronts);
  return {
    part: 'holdouts',
    told: `something stands before it on ${frames} frames, over up to ${Math.max(1, Math.round(100 * most))} % of the glass`,
    recipe: { holdouts: [{ kind: 'found', found: fronts }] },
  };
}

function keyed(e: MatchEvidence): Proposal {
  const { colour, inside } = e;
  const strengths = inside.map((p) => keyStrength(colour, p[0]!, p[1]!, p[2]!));
  const solid = round(Math.max(0.35, quantile(strengths, 0.3) - 0.22), 2);
  return {
    part: 'holdouts',
    told: `what is not the screen's colour (${colour.map((v) => Math.round(255 * v)).join(' ')}) stays in front`,
    recipe: {
      holdouts: [
        {
          kind: 'key',
          colours: [rounded(colour)],
          gone: round(solid * 0.45, 2),
          solid,
          softness: 1,
          crosses: marks(e, solid * 0.7),
        },
      ],
    },
  };
}

/** The light of a keyed Screen on what stands around it; null for others. */
export function spill({ kind, colour }: MatchEvidence): Proposal | null {
  if (kind !== 'keyed') return null;
  return {
    part: 'spill',
    told: 'its light is taken off what stands around it',
    recipe: { spill: { colour: rounded(colour), amount: 1, recolour: 0.3, reach: 60 } },
  };
}
