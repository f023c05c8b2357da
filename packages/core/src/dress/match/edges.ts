/** How soft, how smeared and how round a Screen's edges are. */
import { median } from '../../statistics';
import type { MatchEvidence } from './evidence';
import type { Proposal } from './proposal';
import { perFrame, round } from './proposal';

/** Degrees of a shutter that could not be told. Common practice, no source. */
const USUAL_DEGREES = 180;

/** Blur of the glass edges, px by frame. */
export function softness({ spreads }: MatchEvidence): Proposal | null {
  if (spreads.length === 0) return null;
  const middle = median(spreads.map((s) => s.sigma));
  const frames = `${spreads.length} ${spreads.length === 1 ? 'frame' : 'frames'}`;
  return {
    part: 'softness',
    told: `the glass edges are soft by a sigma of ${middle.toFixed(2)} px (told on ${frames})`,
    recipe: {
      softness: { amount: 1, measured: perFrame(spreads.map((s) => ({ frame: s.frame, value: s.sigma }))) },
    },
  };
}

/** The shutter by which the fill is smeared; 180 degrees where it was not told. */
export function motionBlur({ shutter }: MatchEvidence): Proposal {
  const degrees = shutter === null ? USUAL_DEGREES : Math.round(360 * shutter);
  return {
    part: 'motionBlur',
    told:
      shutter === null
        ? `the shutter could not be told; ${USUAL_DEGREES} degrees are taken`
        : `the shutter is open for ${degrees} degrees`,
    recipe: { motionBlur: { on: true, shutter: degrees } },
  };
}

const ROUND = {
  /** Corners, over all frames, that must tell of their radius. By trial. */
  enough: 8,
  /** Of the shorter side; smaller radii are taken for square corners. By trial. */
  least: 0.012,
  /** Of the shorter side; larger ones are a mistake. By trial. */
  most: 0.3,
  /** Share of the corners that must agree. By trial. */
  agree: 0.6,
} as const;

/** Radius of the corners; null where they do not agree, or are square. */
export function edge({ rounds, aspect }: MatchEvidence): Proposal | null {
  if (rounds.length < ROUND.enough) return null;
  const radius = median(rounds);
  const share = radius / Math.min(1, aspect);
  const agree = rounds.filter((r) => Math.abs(r - radius) < 0.35 * radius + 0.006).length / rounds.length;
  if (share <= ROUND.least || share >= ROUND.most || agree <= ROUND.agree) return null;
  return {
    part: 'edge',
    told: `the glass is rounded at its corners by ${(100 * share).toFixed(1)} % of its shorter side`,
    recipe: { edge: { radius: round(share, 3) } },
  };
}
