/**
 * Which share of a frame's time the shutter is open: fast, well-supported frames are looked at with each of several
 * smears.
 */
import { inverse, multiply } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import { mapQuad } from '../geometry/quad';
import type { Pyramid } from '../image/pyramid';
import { blurTemplate } from './blurred-template';
import { FLOORS } from './frame-context';
import { smearOfKey } from './key-pictures';
import type { ShutterMemory } from './shutter';
import { SHUTTERS, smearBeyond, smearOf, velocityAt } from './shutter';
import type { Sight } from './sight';
import { alignTexture } from './texture-alignment';
import type { Found } from './verdict';

/** Fast frames that are enough to know the shutter. By trial. */
const ENOUGH = 10;
/** Fast frames that are looked at before it is given up to learn more: smear may not show on this Screen. By trial. */
const MOST_TRIES = 24;
/** px a frame; slower ones show no difference, faster ones are not followed well enough. By trial. */
const SPEED = [8, 90] as const;
/** Difference of agreement between smears from which a frame tells them apart. By trial. */
const TELLS = 0.01;

/** @param before corners of the frames before, newest first */
export function learnShutter(
  memory: ShutterMemory,
  f: Found,
  before: readonly Quad[],
  sight: Sight,
  pyramid: () => Pyramid,
): ShutterMemory {
  if (!f.alignment || memory.frames >= ENOUGH || memory.tries >= MOST_TRIES || f.alignment.support < 0.5) return memory;
  const velocity = velocityAt(f.corners, before);
  const speed = Math.max(...velocity.map((v) => Math.hypot(v[0], v[1])));
  if (speed < SPEED[0] || speed > SPEED[1]) return memory;
  const { key } = f;
  const fromKey = multiply(f.homography, inverse(key.homography));
  const picture = pyramid();
  const agreement = SHUTTERS.map((share) => {
    const template =
      share === 0
        ? key.template
        : blurTemplate(
            key.template,
            1,
            smearBeyond(
              smearOf(f.corners, velocity, share).inTemplate(fromKey),
              smearOfKey(key, sight.pin, share).inFrame,
            ),
          );
    const a = alignTexture(template, picture, fromKey, {
      motion: 'still',
      frameNoise: 1,
      trust: sight.probation.trust,
      proven: sight.probation.proven,
      pin: mapQuad(key.homography, sight.pin),
      expected: f.corners,
      expectedSigma: 1,
      coarsest: 1,
      floor: FLOORS,
    });
    if (!a) return 0;
    let sum = 0;
    let count = 0;
    for (const r of a.sensors.correlation) if (r > 0) [sum, count] = [sum + r, count + 1];
    return count > 0 ? sum / count : 0;
  });
  return {
    agreement: memory.agreement.map((v, i) => v + agreement[i]!),
    tries: memory.tries + 1,
    frames: memory.frames + (Math.max(...agreement) - Math.min(...agreement) > TELLS ? 1 : 0),
  };
}
