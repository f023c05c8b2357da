/**
 * Where a frame's Screen may be, from the likeliest to the most far-fetched: the forecast, the picture alone when it
 * disagrees with the edges, a sudden stop, the last position, wide searches. Each is a start for following; pyramids
 * are made as they are asked for, and one is good only until the next.
 */
import { clamp } from '../../clamp';
import { quadToQuad } from '../../geometry/homography';
import type { Line } from '../../geometry/line';
import { inverse, multiply } from '../../geometry/matrix3';
import type { Matrix3 } from '../../geometry/matrix3';
import { mapQuad } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import { estimateNoise } from '../../image/noise';
import type { Pyramid } from '../../image/pyramid';
import { searchShift } from '../picture/coarse-search';
import { placesOfOutlines } from '../edges/edge-relocation';
import type { FrameContext } from '../memory/frame-context';
import type { Rail } from '../edges/rails';
import { placesInPicture, rememberedPlaces } from './relocation';
import type { Hypothesis } from '../evidence/verdict';

/** px from which a frame's noise is estimated: its spread is then off by about a fiftieth. By trial. */
const NOISE_SAMPLES = 4000;
/** px; smear from which a sudden stop is thought of. By trial. */
const STOPS = 4;

/** px in which edges are looked for around a place that the device's lines tell closely. By trial. */
const CLOSE = 4;
/** Likeness, -1 to 1, from which a shifted place is worth aligning to. By trial. */
const ALIKE = 0.4;

export interface Searched extends Pick<
  FrameContext,
  'frame' | 'sight' | 'path' | 'usesTexture' | 'expected' | 'views' | 'isAstray' | 'earlier'
> {
  readonly luma: RawLuma;
  /** of the fastest corner where the Screen is expected, px */
  readonly smear: number;
}

/** Of a frame, grey. */
export function noiseOf(pyramid: Pyramid): number {
  return estimateNoise(pyramid[0]!, NOISE_SAMPLES);
}

/** Where the picture that the Screen showed last looks most like itself, shifted by up to `radius` px; null when nowhere. */
function shiftedFrom({ sight, frame }: Searched, wide: Pyramid, last: Matrix3, radius: number): Matrix3 | null {
  const key = sight.keyFor(last, frame);
  const shifted = searchShift(key.template, wide, multiply(last, inverse(key.homography)), radius);
  return shifted && shifted.score > ALIKE ? multiply(shifted.homography, key.homography) : null;
}

/** Lost frames after which the Screen is looked for everywhere on each other frame alone. By trial. */
const SEARCHED = 2;

/**
 * Whether the Screen is looked for everywhere: it was lost, or is likely to be elsewhere than where it was taken to be. What
 * has been gone for long is looked for on each other frame: the one between is followed back to.
 */
function isSearchedFor({ frame, path, isAstray }: Searched): boolean {
  if (path.lost > 0 && path.lost <= SEARCHED) return true;
  return (path.lost > 0 || isAstray) && frame % 2 === 0;
}

/** Where the Screen is expected on a frame, the likeliest first. */
export function* nearHypotheses({ sight, path, usesTexture, luma, expected, smear }: Searched): Generator<Hypothesis> {
  const forecast = quadToQuad(sight.pin, expected.corners);
  const { steady } = path;
  const pyramid = sight.pyramidFor(luma, forecast, 40 + expected.sigma);
  const noise = noiseOf(pyramid);
  // Just where a Screen in steady movement should be.
  if (steady) yield { pyramid, noise, start: forecast, expected, reach: 1.5 + path.surprise, coarsest: 1 };
  const near: Hypothesis = {
    pyramid,
    noise,
    start: forecast,
    expected,
    reach: clamp(0.5 * expected.sigma, 4, 14),
    coarsest: Infinity,
  };
  if (!steady && path.lost === 0 && near.reach > 5) yield { ...near, reach: 4 };
  yield near;
  if (sight.rails.length > 0 && usesTexture) yield { ...near, pictureFirst: true };
  if (mayStop(usesTexture, smear)) yield { ...near, pictureFirst: true, stopped: true };
}

/**
 * Where a first run has the Screen: it may have been followed there well from elsewhere, or with less in mind. Nothing on a first
 * run.
 */
export function* earlierHypotheses({ sight, luma, expected, earlier }: Searched, noise: number): Generator<Hypothesis> {
  if (!earlier) return;
  const start = quadToQuad(sight.pin, earlier);
  const pyramid = sight.pyramidFor(luma, start, 40);
  yield { pyramid, noise, start, expected: { ...expected, corners: earlier, sigma: 24 }, reach: CLOSE, coarsest: 1 };
}

const mayStop = (usesTexture: boolean, smear: number): boolean => usesTexture && smear > STOPS;

/** Where else it may be, the likeliest first. @param noise of the frame, grey */
export function* farHypotheses(o: Searched, noise: number): Generator<Hypothesis> {
  const { sight, path, usesTexture, luma, expected, smear } = o;
  const forecast = quadToQuad(sight.pin, expected.corners);
  const hasRails = sight.rails.length > 0;
  const last = quadToQuad(sight.pin, path.last.corners);
  const radius = Math.min(64 * (1 + path.lost), 0.3 * luma.width);
  const wide = sight.pyramidFor(luma, last, 40 + radius);
  const at = (start: Matrix3): Hypothesis => ({
    pyramid: wide,
    noise,
    start,
    expected: { ...expected, corners: mapQuad(start, sight.pin), sigma: 24 },
    reach: 8,
    coarsest: Infinity,
  });
  const shifted = usesTexture ? shiftedFrom(o, wide, last, radius) : null;
  if (shifted) {
    yield { ...at(shifted), pictureFirst: hasRails };
    yield at(shifted);
  }
  yield at(last);
  if (mayStop(usesTexture, smear)) yield { ...at(last), stopped: true };
  for (const edgeLevel of hasRails ? [1, 2] : [])
    yield { ...at(forecast), expected: { ...expected, sigma: Math.max(expected.sigma, 30) }, reach: 12, edgeLevel };
  if (!isSearchedFor(o)) return;
  const whole = sight.pyramidFor(luma, last, Infinity);
  yield* relocations(o, whole, (start) => ({ ...at(start), pyramid: whole, reach: 12 }));
}

/** The lines of the device beside the pin's own sides. */
function linesOf(rails: readonly Rail[]): Line[] {
  return rails.filter((r) => !r.inner && !r.witness).map((r) => ({ a: r.sites[0]!, b: r.sites.at(-1)! }));
}

/** Starts wherever a lost Screen may be again. @param whole pyramid of the whole frame */
function* relocations(
  { sight, path, usesTexture, views }: Searched,
  whole: Pyramid,
  at: (start: Matrix3) => Hypothesis,
): Generator<Hypothesis> {
  const hasRails = sight.rails.length > 0;
  for (const place of usesTexture ? placesInPicture(sight, whole) : []) {
    yield { ...at(place), pictureFirst: hasRails };
    yield at(place);
  }
  const remembered = rememberedPlaces(sight, views);
  for (const place of remembered) {
    if (usesTexture) yield { ...at(place), pictureFirst: hasRails };
    for (const edgeLevel of hasRails ? [1, 2] : []) yield { ...at(place), edgeLevel };
  }
  if (!hasRails) return;
  const known = [quadToQuad(sight.pin, path.last.corners), ...remembered];
  for (const place of placesOfOutlines(sight.pin, known, linesOf(sight.rails), whole)) {
    yield { ...at(place), reach: CLOSE };
    yield { ...at(place), edgeLevel: 1 };
  }
}
