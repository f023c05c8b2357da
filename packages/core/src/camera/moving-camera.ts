/**
 * The views of a camera that moves, grown from two key frames: their movement, their points, then key frame by key frame
 * outwards, everything adjusted together as it grows.
 */
import { relativePoses, turningOf } from './relative-pose';
import type { RayPairs } from './relative-pose';
import type { Freedom, KnownView, Patience, Scene } from './scene';
import { SCENE, adjusted, adjustedPart, culled, viewOfFrame, withNewPoints } from './scene';
import { bestFirst, worthOf } from './worth';
import type { Sightings } from './sightings';
import { median } from '../statistics';
import type { Optics } from './view-model';
import { halfDiagonal, unbow, viewOfNothing } from './view-model';

const GROW = {
  /** Key frames between the two that are begun with, at the most. By trial. */
  mostApart: 8,
  /** Points that both must show. By trial. */
  leastCommon: 30,
  /** Px of noise that is reckoned with before it is known. By trial. */
  firstNoise: 0.4,
  /** Key frames after which everything is adjusted again. By trial. */
  every: 3,
  /** Of those adjustments. By trial. */
  some: { rounds: 8, leastGain: 1e-4 },
  /** Of the last one. By trial. */
  last: { rounds: 40, leastGain: 1e-6 },
  /** Key frames that are adjusted with those that were added last; the others hold still. By trial. */
  window: 12,
  /** Key frames after which all are adjusted, however many. By trial. */
  wholeEvery: 24,
  /** Share of the best beginning's worth that a second must have to be grown as well. By trial. */
  nearly: 0.8,
  /** Share of the best grown one's worth that a second must have to be settled as well. By trial. */
  asGood: 0.75,
  /** Beginnings that are grown. By trial. */
  grown: 2,
  /** Times that outliers are left out and points taken in at the end. By trial. */
  settling: 2,
} as const;

function raysOf(s: Sightings, optics: Optics, points: readonly number[], frame: number): Float64Array {
  return Float64Array.from(
    points.flatMap((p) => {
      const [x, y] = unbow(optics, s.x(p, frame), s.y(p, frame));
      return [x / optics.focal, y / optics.focal];
    }),
  );
}

/** Rays at depth 1 of the points that two frames both show. */
export function rayPairs(s: Sightings, optics: Optics, a: number, b: number): RayPairs & { points: number[] } {
  const points = s.common(a, b);
  return { points, first: raysOf(s, optics, points, a), second: raysOf(s, optics, points, b) };
}

/** What turning alone leaves of the movement between two frames, px: median over their points. */
export function parallaxBetween(s: Sightings, optics: Optics, a: number, b: number): number {
  const pairs = rayPairs(s, optics, a, b);
  if (pairs.points.length < SCENE.leastPoints) return 0;
  const px = halfDiagonal(s.size) * optics.focal;
  const v = turningOf(pairs, GROW.firstNoise / px);
  const left = pairs.points.map((_, i) => {
    const [x, y] = [pairs.first[2 * i]!, pairs.first[2 * i + 1]!];
    const z = v[6]! * x + v[7]! * y + v[8]!;
    const u = (v[0]! * x + v[1]! * y + v[2]!) / z - pairs.second[2 * i]!;
    const w = (v[3]! * x + v[4]! * y + v[5]!) / z - pairs.second[2 * i + 1]!;
    return px * Math.hypot(u, w);
  });
  return median(left);
}

/** Two key frames, by their places in the list. */
export type Pair = readonly [number, number];

/** Pairs of key frames that can be begun with, the best first; each of a part of the shot that no better one takes. */
export function startsOf(s: Sightings, optics: Optics, keys: readonly number[]): Pair[] {
  const all: { readonly pair: Pair; readonly worth: number }[] = [];
  for (let a = 0; a < keys.length; a++)
    for (let b = a + 1; b < Math.min(keys.length, a + 1 + GROW.mostApart); b++) {
      const common = s.common(keys[a]!, keys[b]!).length;
      if (common < GROW.leastCommon) break;
      const parallax = parallaxBetween(s, optics, keys[a]!, keys[b]!);
      // Much parallax helps up to a point; many points help by their root.
      all.push({ pair: [a, b], worth: Math.min(parallax, 60) * Math.sqrt(common) });
    }
  const taken: Pair[] = [];
  for (const { pair, worth } of all.sort((x, y) => y.worth - x.worth)) {
    const isApart = taken.every(([a, b]) => pair[1] <= a || pair[0] >= b);
    if (worth > 0 && isApart) taken.push(pair);
  }
  return taken;
}

/** All answers to how the first two frames stand, with the points and the key frames between. */
function begun(s: Sightings, optics: Optics, keys: readonly number[], pair: Pair, freedom: Freedom): Scene[] {
  const [a, b] = [keys[pair[0]]!, keys[pair[1]]!];
  const pairs = rayPairs(s, optics, a, b);
  const noise = GROW.firstNoise / (halfDiagonal(s.size) * optics.focal);
  return relativePoses(pairs, 2 * noise).map(({ view }) => {
    const views = new Map<number, KnownView>([
      [a, { view: viewOfNothing(), focal: optics.focal }],
      [b, { view, focal: optics.focal }],
    ]);
    let scene: Scene = { optics, views, points: new Map(), noise: 2 * GROW.firstNoise };
    scene = withNewPoints(s, scene, pairs.points);
    for (let k = pair[0] + 1; k < pair[1]; k++) {
      const near = scene.views.get(keys[k - 1]!) ?? scene.views.get(a)!;
      const found = viewOfFrame(s, scene, keys[k]!, near, freedom);
      if (found) scene = { ...scene, views: new Map(scene.views).set(keys[k]!, found) };
    }
    return adjusted(s, scene, freedom, GROW.some);
  });
}

/** Adjusted about the key frame that came in last: all while they are few, else those nearest to it. */
function partly(s: Sightings, scene: Scene, freedom: Freedom, keys: readonly number[], at: number): Scene {
  const known = keys.filter((k) => scene.views.has(k));
  const isWhole = known.length <= 2 * GROW.window || known.length % GROW.wholeEvery === 0;
  if (isWhole) return adjusted(s, scene, freedom, GROW.some);
  const place = known.indexOf(keys[at]!);
  const first = place < known.length / 2 ? 0 : known.length - GROW.window;
  return adjustedPart(s, scene, freedom, GROW.some, known.slice(first, first + GROW.window));
}

/** Goes on from the known key frames to the others, on both sides. */
function grown(s: Sightings, start: Scene, keys: readonly number[], freedom: Freedom): Scene {
  let scene = start;
  const known = keys.map((_, i) => i).filter((i) => scene.views.has(keys[i]!));
  let [low, high] = [known[0]!, known.at(-1)!];
  let since = 0;
  for (let isUp = true; ; isUp = !isUp) {
    const isLowDone = low <= 0;
    const isHighDone = high >= keys.length - 1;
    if (isLowDone && isHighDone) break;
    const goesUp = isHighDone ? false : isLowDone || isUp;
    const near = scene.views.get(keys[goesUp ? high : low]!);
    const at = goesUp ? ++high : --low;
    const found = near && viewOfFrame(s, scene, keys[at]!, near, freedom);
    if (!found) {
      // What lies beyond a key frame that cannot be placed is left open.
      if (goesUp) high = keys.length;
      else low = 0;
      continue;
    }
    scene = withNewPoints(s, { ...scene, views: new Map(scene.views).set(keys[at]!, found) }, s.of(keys[at]!));
    if (++since < GROW.every) continue;
    since = 0;
    scene = culled(s, partly(s, scene, freedom, keys, at));
  }
  return scene;
}

/**
 * @param supposed optics to begin with, each tried
 * @param pair key frames to begin with
 * @returns what the best two beginnings grow to, best first; none where the pair serves none
 */
export function movingCamera(
  s: Sightings,
  supposed: readonly Optics[],
  keys: readonly number[],
  freedom: Freedom,
  pair: Pair,
): Scene[] {
  const first = supposed.flatMap((optics) => {
    const best = bestFirst(s, begun(s, optics, keys, pair, freedom))[0];
    return best && best.points.size >= SCENE.leastPoints ? [best] : [];
  });
  const ranked = bestFirst(s, first);
  const least = ranked[0] ? GROW.nearly * worthOf(s, ranked[0]) : 0;
  const two = ranked.slice(0, GROW.grown).filter((one) => worthOf(s, one) >= least);
  const whole = bestFirst(
    s,
    two.map((one) => grown(s, culled(s, one), keys, freedom)),
  );
  const near = whole[0] ? GROW.asGood * worthOf(s, whole[0]) : 0;
  return bestFirst(
    s,
    whole.filter((one) => worthOf(s, one) >= near).map((one) => settled(s, one, freedom)),
  );
}

/** Outliers left out and all points taken in, until nothing is gained. */
export function settled(s: Sightings, start: Scene, freedom: Freedom, patience: Patience = GROW.last): Scene {
  let scene = start;
  for (let round = 0; round < GROW.settling; round++) {
    scene = culled(s, adjusted(s, scene, freedom, patience));
    scene = withNewPoints(s, scene);
  }
  return adjusted(s, scene, freedom, patience);
}
