/** How soft a frame that was taken is: see `softness.ts`. */
import { multiply, inverse } from '../../geometry/matrix3';
import { scaleAt } from '../../geometry/homography';
import type { RawLuma } from '../../image/image';
import { placesOfSide } from '../edges/edge-fit';
import { edgeView, likenessAcross } from './edges-of-frame';
import type { FrameContext } from '../memory/frame-context';
import { LIKENESS_LEVELS, likenessOf } from './picture-likeness';
import { beyondUsual } from './picture-of-frame';
import { nextSoftness, softened } from '../picture/softness';
import type { Found } from '../evidence/verdict';
import { agreesWell, looksOther } from '../evidence/verdict';

const LEARNING = {
  /** px; smear up to which a frame tells of softness. By trial. */
  plain: 3,
  /** Share of the edges that must be found for it. By trial. */
  found: 0.5,
  /** Misfit across the sides by which a softness may make it worse. By trial. */
  contradicted: 0.2,
  /** px around the Screen, sites of a rail and px of reach with which lines are looked at. By trial. */
  look: { margin: 24, enough: 20, reach: 2 },
} as const;

/** How well lines agree with their softened looks, 0 to 1; 0 where what lies across the sides contradicts it. */
function byLines(c: FrameContext, luma: RawLuma, f: Found): (softness: number) => number {
  const { homography, edges } = f;
  const { margin, enough, reach } = LEARNING.look;
  const [image] = c.sight.pyramidFor(luma, homography, margin, 1);
  const view = edgeView(c, image!, homography);
  // Softness is told by what the device shows, not by what may bleed into it.
  const misfit = (softness: number): number =>
    f.across && edges ? likenessAcross({ ...c, softness }, edges, f.across, 0).misfit : 0;
  const now = misfit(c.softness);
  return (softness) => {
    // Lines look more alike the softer they are; what lies across the sides must be as soft.
    if (softness > c.softness && misfit(softness) > now + LEARNING.contradicted) return 0;
    const softer = { ...view, search: { ...view.search, softness, reach, enough } };
    const sides = [0, 1, 2, 3].flatMap((side) => placesOfSide(side, softer, homography, Infinity) ?? []);
    const [here, most] = sides.reduce(([a, b], q) => [a + q.here, b + q.most], [0, 0]);
    return here! / Math.max(1, most!);
  };
}

/** How well the remembered picture agrees when it is softened, as it stands: mean correlation of its cells. */
function byPicture(c: FrameContext, luma: RawLuma, f: Found): (softness: number) => number {
  const { homography, key } = f;
  const pyramid = c.sight.pyramidFor(luma, homography, LEARNING.look.margin, LIKENESS_LEVELS);
  const from = multiply(homography, inverse(key.homography));
  const scale = scaleAt(from, key.template.centre);
  return (softness) => {
    const template = softened(key.template, beyondUsual(softness) / scale);
    return likenessOf(c, f, pyramid, { template, motion: 'still', sigma: 1 });
  };
}

/** The softness of a frame as it was taken; that of the frames before where nothing tells. */
export function softnessOf(c: FrameContext, luma: RawLuma, f: Found): number {
  const { edges, smear, alignment } = f;
  const isTold = edges !== null && edges.found >= LEARNING.found && !looksOther(f);
  if (smear.length > LEARNING.plain) return c.softness;
  const told = isTold ? nextSoftness(c.softness, byLines(c, luma, f)) : c.softness;
  // A picture tells better than lines, and is asked where anything is soft at all.
  const isPicture = c.sight.hasPicture && agreesWell(alignment) && Math.max(told, c.softness) > 0;
  return isPicture ? nextSoftness(told, byPicture(c, luma, f)) : told;
}
