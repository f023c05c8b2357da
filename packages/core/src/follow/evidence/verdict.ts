/** What a way of following a frame came to, whether it will do, and why it will not, as sentences. */
import type { Matrix3 } from '../../geometry/matrix3';
import type { Quad } from '../../geometry/quad';
import type { Pyramid } from '../../image/pyramid';
import { cornerSigmas } from '../../geometry/corner-information';
import type { EdgeFit } from '../edges/edge-solver';
import type { KeyPicture } from '../picture/key-pictures';
import type { Smear } from '../timing/shutter';
import type { Alignment } from '../picture/texture-alignment';

const VERDICT = {
  /** Share of the cells' weight that must agree for a frame to rest on the picture. By trial. */
  leastSupport: 0.3,
  /** Share of the cells' weight from which nothing better is looked for. By trial. */
  sureSupport: 0.6,
  /** Share of the cells' weight that is asked of a result that no fine level confirms. By trial. */
  coarseSupport: 0.75,
  /** Share of the sites from which nothing better is looked for. By trial. */
  sureFound: 0.7,
  /** Mean likeness of the sites, 0 to 1, from which nothing better is looked for. By trial. */
  sureAlike: 0.8,
  /** Misfit of what the device shows across a side from which it may be something else. By trial. */
  otherLooks: 3.5,
  /** px at 1920 wide; corners known this well need nothing better. By trial. */
  sureSigma: 0.6,
} as const;
/** Cells; eight freedoms want four, the rest makes an accident unlikely. By trial. */
export const LEAST_AGREEING = 7;
/** Sides without which edges alone carry no frame: three and a stiff screen tell the fourth. By trial. */
export const LEAST_SIDES = 3;
/** Share of a side's sites on one line from which edges alone carry a frame. By trial. */
export const LEAST_FOUND = 0.4;

export interface Expectation {
  readonly corners: Quad;
  /** px */
  readonly sigma: number;
  /** of the fastest corner, px a frame */
  readonly speed: number;
}

export interface Hypothesis {
  readonly pyramid: Pyramid;
  /** of the frame, grey */
  readonly noise: number;
  /** reference frame to frame */
  readonly start: Matrix3;
  readonly expected: Expectation;
  /** px in which edges are looked for around the start, on which level first */
  readonly reach: number;
  readonly edgeLevel?: number;
  readonly coarsest: number;
  /** leave the edges out until the picture is aligned */
  readonly pictureFirst?: boolean;
  /** take what moved for standing: nothing is smeared */
  readonly stopped?: boolean;
}

/** What a hypothesis came to, whatever it rests on. */
export interface Found {
  readonly homography: readonly number[];
  readonly corners: Quad;
  readonly information: Float64Array;
  readonly alignment: Alignment | null;
  readonly key: KeyPicture;
  readonly edges: EdgeFit | null;
  /** of the least known corner by the edges and what the lens and stiffness add, px */
  readonly edgeSigma: number;
  readonly smear: Smear;
  readonly support: number;
  readonly score: number;
  /** of the least known corner by evidence alone, px */
  readonly freeSigma: number;
  /** what moved on the frames before was taken for standing here */
  readonly stopped: boolean;
  /** share of probability of the edges against rivals with sides on other lines, 0 to 1 */
  readonly certainty: number;
  /** of the farthest corner to the likeliest rival, px; 0 without one */
  readonly rival: number;
  /** of what the device shows across its worst side: see `side-looks.ts`; 0 where no edges carry the frame */
  readonly misfit: number;
  /** what is seen across the sides, see `side-looks.ts`; null where no edges carry the frame */
  readonly across: Float64Array | null;
  /** where the edges lay that were found first; null where none carry the frame */
  readonly first: Quad | null;
  readonly reason: string | null;
}

const percent = (v: number): string => `${Math.round(100 * v)} %`;

/** Whether edges alone can carry a frame. */
export function carries(e: EdgeFit | null): e is EdgeFit {
  return e !== null && e.sides >= LEAST_SIDES && e.found >= LEAST_FOUND;
}

/**
 * Why a frame cannot be vouched for; null when it can.
 * @param o whether edges carry it; whether the screen has a picture to follow; width of the frame, px
 */
export function whyNot(
  f: Omit<Found, 'reason'>,
  o: { readonly carried: boolean; readonly hasPicture: boolean; readonly width: number },
): string | null {
  const { carried, hasPicture, width } = o;
  // Corners far outside the picture may be known badly while the part that is seen is followed well: two that are known
  // will do.
  const sigma = [...cornerSigmas(f.information, 100)].sort((a, b) => a - b)[1]! * (1920 / width);
  const unknown = `The corners are known only to ${sigma.toFixed(0)} px; too little agreeing picture is left`;
  if (carried) return sigma > 24 ? unknown : null;
  if (!f.alignment || !(hasPicture || f.alignment.agreeing > 0))
    return 'The edges of the glass are covered, blurred or outside the picture';
  const { support, agreeing, visible } = f.alignment;
  const smeared = f.smear.length > 12 ? `; a blur of ${f.smear.length.toFixed(0)} px hides the rest` : '';
  if (visible < 0.12) return `Only ${percent(visible)} of the followed picture is inside the frame`;
  if (support < VERDICT.leastSupport || agreeing < LEAST_AGREEING)
    return `${percent(1 - support)} of the visible cells are covered or changed${smeared}`;
  if (f.alignment.sensors.level.level >= 2 && support < VERDICT.coarseSupport)
    return `The picture agrees only roughly; it may be blurred beyond use${smeared}`;
  return sigma > 8 ? unknown : null;
}

/** Whether what lies across a side looks like something else than the device, and no picture speaks for it. */
export function looksOther(f: Pick<Found, 'misfit' | 'alignment'>): boolean {
  return f.misfit > VERDICT.otherLooks && !agreesWell(f.alignment);
}

/** Whether most of a picture is where it is thought to be. */
export function agreesWell(a: Alignment | null): a is Alignment {
  return a !== null && a.support >= VERDICT.sureSupport && a.agreeing >= 12;
}

/**
 * Whether nothing better need be looked for.
 * @param o what the reference offers: rails, sides of the pin that have one, a picture of its own; `sigma` of the least
 *   known corner by the edges, px at 1920 wide
 */
export function isSure(
  f: Found,
  o: { readonly rails: number; readonly sides: number; readonly hasPicture: boolean; readonly sigma: number },
): boolean {
  const { edges: e, alignment: a } = f;
  const picture = agreesWell(a);
  if (looksOther(f)) return false;
  if (!e) return picture && (o.rails === 0 || a.support > 0.8);
  const found =
    e.sides === Math.min(e.available, o.sides) && e.found > VERDICT.sureFound && e.alike > VERDICT.sureAlike;
  if (!found) return picture && a.support > 0.7 && a.agreeing > 30 && e.found > LEAST_FOUND;
  return e.sides >= LEAST_SIDES ? picture || o.sigma < VERDICT.sureSigma || !o.hasPicture : picture;
}
