/**
 * Which share of a frame's time the shutter is open: fast, well-supported frames are looked at with each of several
 * smears.
 */
import { inverse, multiply } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import type { Pyramid } from '../../image/pyramid';
import { blurTemplate } from '../picture/blurred-template';
import { measureRails } from '../edges/edge-fit';
import { edgeView } from './edges-of-frame';
import type { FrameContext } from '../memory/frame-context';
import { smearOfKey } from '../picture/key-pictures';
import type { Lying } from './picture-likeness';
import { likenessOf } from './picture-likeness';
import type { Motion } from '../../geometry/motion';
import type { ShutterMemory } from '../timing/shutter';
import { SHUTTERS, fastest, smearBeyond, smearOf, velocityAt } from '../timing/shutter';
import type { Template } from '../picture/template';
import type { Found } from '../evidence/verdict';

/** Fast frames that are enough to know the shutter. By trial. */
const ENOUGH = 10;
/** Fast frames that are looked at before it is given up to learn more: smear may not show on this Screen. By trial. */
const MOST_TRIES = 24;
/** px a frame; slower ones show no difference, faster ones are not followed well enough. By trial. */
const SPEED = [8, 90] as const;
/** Share of its speed by which what tells may have become faster or slower since the frame before. By trial. */
const STEADY = 0.4;
/** Difference of agreement between smears from which a frame tells them apart. By trial. */
const TELLS = 0.01;
/** Share of the cells' weight from which a picture tells. By trial. */
const PICTURE_AGREES = 0.5;
/** px by which a frame may lie off since it was followed with another smear: each is tried where it fits best. By trial. */
const OFF = 4;
const LINES = {
  /** px a frame; lines smeared by more are hardly there. By trial. */
  speed: 40,
  /** px in which the lines are looked for around where they were found. By trial. */
  reach: OFF,
  /** Places on lines that are enough to tell. By trial. */
  least: 40,
  /** Share of the edges that must be found for that. By trial. */
  found: 0.7,
} as const;

/** A frame that moves fast. */
interface FastFrame {
  readonly c: FrameContext;
  readonly f: Lying;
  readonly pyramid: Pyramid;
  /** of the corners, px a frame */
  readonly velocity: readonly Point[];
  /** what is open while the smears are compared */
  readonly motion: Motion;
}

function meanOf(values: readonly number[]): number {
  return values.reduce((s, v) => s + v, 0) / Math.max(1, values.length);
}

/** How well the remembered picture agrees when it is smeared by such a shutter: mean correlation where it fits best. */
function byPicture({ c, f, pyramid, velocity, motion }: FastFrame): (share: number) => number {
  const { key } = f;
  const from = multiply(f.homography, inverse(key.homography));
  const smeared = (share: number): Template => {
    if (share === 0) return key.template;
    const path = smearOf(f.corners, velocity, share).inTemplate(from);
    return blurTemplate(key.template, 1, smearBeyond(path, smearOfKey(key, c.sight.pin, share).inFrame));
  };
  return (share) => likenessOf(c, f, pyramid, { template: smeared(share), motion, sigma: OFF });
}

/** The same of the lines along the sides: mean likeness where they were found. */
function byLines({ c, f, pyramid, velocity }: FastFrame): (share: number) => number {
  return (share) => {
    const { rails, image, search, spread } = edgeView(c, pyramid[0]!, f.homography);
    const { inFrame } = smearOf(f.corners, velocity, share);
    const hits = measureRails(rails, image, f.homography, { ...search, blur: inFrame, reach: LINES.reach }, spread);
    return hits.length < LINES.least ? 0 : meanOf(hits.map((q) => q.likeness));
  };
}

/** Whether it moved about as fast on the frame before: how far it went while the shutter was open is known then. */
function isSteady(now: Quad, [last, other]: readonly Quad[], speed: number): boolean {
  if (!last || !other) return false;
  const change = now.map((p, i): Point => {
    const [q, r] = [last[i]!, other[i]!];
    return [p[0] - 2 * q[0] + r[0], p[1] - 2 * q[1] + r[1]];
  });
  return fastest(change) < STEADY * speed;
}

function isCarriedByLines({ edges }: Found): boolean {
  return edges !== null && edges.sides === edges.available && edges.found > LINES.found;
}

/** @param c what the frame was followed with; before: corners of the frames before, newest first */
export function learnShutter(
  memory: ShutterMemory,
  c: FrameContext,
  f: Found,
  before: readonly Quad[],
  pyramid: () => Pyramid,
): ShutterMemory {
  if (memory.isBetween || memory.frames >= ENOUGH || memory.tries >= MOST_TRIES) return memory;
  const isPicture = f.alignment !== null && f.alignment.support >= PICTURE_AGREES;
  if (!isPicture && !isCarriedByLines(f)) return memory;
  const velocity = velocityAt(f.corners, before);
  const speed = fastest(velocity);
  const most = isPicture ? SPEED[1] : LINES.speed;
  if (speed < SPEED[0] || speed > most || !isSteady(f.corners, before, speed)) return memory;
  const fast = { c, f, pyramid: pyramid(), velocity, motion: c.motion };
  return withAgreement(memory, SHUTTERS.map(isPicture ? byPicture(fast) : byLines(fast)));
}

/**
 * The same from a frame between others that are known, whose shape of the Screen is then known as well: a smear that is taken
 * for too short makes a bright picture longer, which fits nearly as well as the right one while its shape is open.
 * @param f where the Screen lies, in that shape
 * @param velocity of its corners, px a frame
 */
export function learnShutterBetween(
  memory: ShutterMemory,
  c: FrameContext,
  f: Lying,
  velocity: readonly Point[],
  pyramid: () => Pyramid,
): ShutterMemory {
  const speed = fastest(velocity);
  if (!c.usesTexture || !c.sight.hasPicture || speed < SPEED[0] || speed > SPEED[1]) return memory;
  return withAgreement(memory, SHUTTERS.map(byPicture({ c, f, pyramid: pyramid(), velocity, motion: 'translation' })));
}

/** @param agreement of one frame, per share of {@link SHUTTERS} */
function withAgreement(memory: ShutterMemory, agreement: readonly number[]): ShutterMemory {
  if (agreement.includes(0)) return { ...memory, tries: memory.tries + 1 };
  return {
    ...memory,
    agreement: memory.agreement.map((v, i) => v + agreement[i]!),
    tries: memory.tries + 1,
    frames: memory.frames + (Math.max(...agreement) - Math.min(...agreement) > TELLS ? 1 : 0),
  };
}
