/** A Screen of one colour: what stays in front of it, and its light on what is around. */
import { quantile } from '../../statistics';
import { keyStrength } from '../holdout/holdout';
import type { Rgb } from '../colour/levels';
import type { MatchEvidence } from './evidence';
import { marks } from './marks';
import type { Proposal } from './proposal';
import { round } from './proposal';

const rounded = (colour: Rgb): Rgb => colour.map((v) => round(v, 3)) as unknown as Rgb;

/** A key on the colour that the Screen shows; null for others. */
export function holdouts(e: MatchEvidence): Proposal | null {
  const { kind, colour, inside } = e;
  if (kind !== 'keyed') return null;
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
