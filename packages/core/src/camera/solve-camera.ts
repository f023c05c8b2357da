/**
 * The camera of a shot from the points that were followed through it: whether it moves or only turns, whether it zooms,
 * its focal length and lens, and where it stands on every frame.
 */
import { everyFrame } from './every-frame';
import { isShaken, keyFrames } from './key-frames';
import type { Pair } from './moving-camera';
import { movingCamera, settled, startsOf } from './moving-camera';
import type { PointTrack } from './point-tracks';
import { turnsWithReadout, withRowsExpected } from './row-turning';
import type { Freedom, Patience, Scene } from './scene';
import { SCENE, adjusted } from './scene';
import { Sightings } from './sightings';
import type { Uncertainty } from './uncertainty';
import { uncertaintyOf } from './uncertainty';
import { tripodCamera } from './tripod-camera';
import type { Optics, PictureSize } from './view-model';
import { halfDiagonal } from './view-model';
import { bestFirst, shareExplained, worthOf } from './worth';
import { isZooming } from './zooming';

export interface Known {
  /** px */
  readonly focal?: number;
  readonly kind?: 'moving' | 'tripod';
  /** radial terms by the half diagonal */
  readonly lens?: { readonly k1: number; readonly k2: number };
}

export interface SolvedCamera {
  readonly kind: 'moving' | 'tripod';
  readonly isZoom: boolean;
  /** a rolling shutter was told */
  readonly isRolling: boolean;
  readonly scene: Scene;
  readonly sightings: Sightings;
  /** frames that stood for the shot */
  readonly keys: readonly number[];
  readonly freedom: Freedom;
  /** null where it cannot be told */
  readonly uncertainty: Uncertainty | null;
}

/** Focal lengths in picture widths that are begun with where none is known. By trial. */
const SUPPOSED = [0.8, 1.2, 1.8, 2.8];
/** The same for a camera that turns, which finds its own from far off. By trial. */
const SUPPOSED_TURNING = [0.9, 1.8];

const TURNS = [0, 1, 2];
const MOVES = [0, 1, 2, 3, 4, 5];
/** Place of a view's own focal length. */
const ZOOMS = 6;
/** Places of the rows' turning, evenly from row to row. */
const ROLLS = [7, 8, 9];
/** Places of what it grows by within a frame: a shake is faster than a frame is read. */
const BENDS = [10, 11, 12];
/** Share of worth that a further freedom must add. By trial. */
const LEAST_GAIN = 0.03;

/** Share of the sights below which a solution is not good enough to go on from. By trial. */
const WELL_EXPLAINED = 0.55;

interface Found {
  readonly scene: Scene;
  readonly freedom: Freedom;
}

const worthMore = (s: Sightings, next: Scene, before: Scene, numbers: number, share: number): boolean =>
  worthOf(s, next) - (numbers / 2) * next.views.size - worthOf(s, before) > share * Math.abs(worthOf(s, before));

/** Of a trial of a further freedom, and of what is found slowly: a focal length that goes with the distance. */
const TRIAL: Patience = { rounds: 12, leastGain: 1e-4 };
const GROWN: Patience = { rounds: 40, leastGain: 1e-6 };
const SLOW: Patience = { rounds: 100, leastGain: 1e-8 };

const withRolling = ({ moves, shares }: Freedom): Freedom => ({ moves: [...moves, ...ROLLS], shares });

/** Each view has a focal length of its own in place of the shared one. */
const withZoom = ({ moves, shares }: Freedom): Freedom => ({
  moves: [...moves, ZOOMS],
  shares: shares.filter((n) => n !== 0),
});

/** A scene with a further freedom, if that explains more; tried in a few steps first. */
function withFreedom(s: Sightings, scene: Scene, free: Freedom, numbers: number, patience: Patience): Found | null {
  const trial = adjusted(s, scene, free, TRIAL);
  if (!worthMore(s, trial, scene, numbers, LEAST_GAIN / 2)) return null;
  const next = settled(s, trial, free, patience);
  return worthMore(s, next, scene, numbers, LEAST_GAIN) ? { scene: next, freedom: free } : null;
}

/** With each view's focal length free, if that explains more. */
function zoomed(s: Sightings, { scene, freedom }: Found): Found | null {
  const found = withFreedom(s, scene, withZoom(freedom), 1, SLOW);
  return found && isZooming(found.scene) ? found : null;
}

/** With the rows of each view turning, as a rolling shutter reads them, if that explains more. */
function rolled(s: Sightings, { scene, freedom }: Found): Found | null {
  return withFreedom(s, scene, withRolling(freedom), ROLLS.length, GROWN);
}

/** With the rows' turning growing within a frame, if that explains more. */
function bent(s: Sightings, found: Found): Found {
  const { scene, freedom } = found;
  const free = { ...freedom, moves: [...freedom.moves, ...BENDS] };
  const isOpen = rolls(found) && !freedom.moves.includes(BENDS[0]!);
  return (isOpen && withFreedom(s, scene, free, BENDS.length, GROWN)) || found;
}

/** Freedoms that are tried. */
interface Allowed {
  readonly mayZoom: boolean;
  readonly mayRoll: boolean;
}

/** Key frames, and pairs of them to begin with, the best first. */
interface Beginning {
  readonly keys: readonly number[];
  readonly starts: readonly Pair[];
}

/** Frames between two key frames, at the most, of a shot that shakes and is not explained well by fewer. By trial. */
const CLOSE = 5;
/** Key frames that are then wanted, and no more: a long shot keeps to its usual ones. By trial. */
const CLOSE_KEYS = 40;
/** Beginnings of a shot that are tried once the best alone did not explain it. By trial. */
const MOST_AGAIN = 2;

/** Grown from several parts of the shot: what stands in the way at one may be gone at another. */
function grownFrom(s: Sightings, optics: Optics, { keys, starts }: Beginning, freedom: Freedom): Found[] {
  return starts.flatMap((pair) => movingCamera(s, [optics], keys, freedom, pair).map((scene) => ({ scene, freedom })));
}

/** Grown with a further freedom from the beginning: a model that is too narrow leads far off. */
function grownFreely(
  s: Sightings,
  supposed: readonly Optics[],
  { keys, starts }: Beginning,
  moving: Freedom,
  { mayZoom, mayRoll }: Allowed,
): Found[] {
  const ways = [...(mayRoll ? [withRolling(moving)] : []), ...(mayZoom ? [withZoom(moving)] : [])];
  const [first] = starts;
  if (!first) return [];
  return ways
    .flatMap((freedom) => movingCamera(s, supposed, keys, freedom, first).map((scene) => ({ scene, freedom })))
    .filter((one) => !one.freedom.moves.includes(ZOOMS) || isZooming(one.scene));
}

/** The one that explains most, less the numbers that its freedoms take. */
function dearest(s: Sightings, all: readonly Found[]): Found | null {
  const worth = ({ scene, freedom }: Found): number =>
    worthOf(s, scene) - (Math.max(0, freedom.moves.length - MOVES.length) / 2) * scene.views.size;
  return all.reduce<Found | null>((best, one) => (best && worth(best) >= worth(one) ? best : one), null);
}

/** A zoom that was grown, settled once more: its focal lengths are found slowly. */
function patiently(s: Sightings, found: Found): Found {
  const isZoom = found.freedom.moves.includes(ZOOMS);
  return isZoom ? { ...found, scene: settled(s, found.scene, found.freedom, SLOW) } : found;
}

/** With those freedoms that explain more: the better first, the other if it still helps. */
function freed(s: Sightings, plain: Found, { mayZoom, mayRoll }: Allowed): Found {
  const ways = [...(mayRoll ? [rolled] : []), ...(mayZoom ? [zoomed] : [])].filter(
    (w) => !plain.freedom.moves.includes(w === rolled ? ROLLS[0]! : ZOOMS),
  );
  const first = ways.flatMap((way) => {
    const found = way(s, plain);
    return found ? [{ way, found, worth: worthOf(s, found.scene) }] : [];
  });
  const best = first.sort((a, b) => b.worth - a.worth)[0];
  if (!best) return bent(s, plain);
  const own = bent(s, best.found);
  const other = ways.find((w) => w !== best.way);
  return bent(s, other?.(s, own) ?? own);
}

/** What is looked for, and where it is begun. */
interface Search {
  /** optics to begin with, of a camera that moves */
  readonly some: readonly Optics[];
  readonly moving: Freedom;
  readonly allowed: Allowed;
}

/** Of all that is grown again where the first solution explains too little. @param plain that solution */
function foundAgain(s: Sightings, plain: Found | null, beginning: Beginning, search: Search): Found | null {
  const { some, moving, allowed } = search;
  const optics = plain?.scene.optics ?? some[0]!;
  const grownAgain = (from: Beginning, first: number): Found[] => [
    ...grownFrom(s, optics, { ...from, starts: from.starts.slice(first, first + MOST_AGAIN) }, moving),
    ...grownFreely(s, some, from, moving, allowed),
  ];
  const isTurning = plain !== null && plain.freedom !== moving;
  if (!isShaken(s) || isTurning) return dearest(s, [...(plain ? [plain] : []), ...grownAgain(beginning, 1)]);
  // What shakes is told by frames that are close to one another: more of them, so that their worths are compared apart.
  const apart = Math.max(CLOSE, Math.ceil(s.frames / CLOSE_KEYS));
  return dearest(s, grownAgain(beginningWith(s, some, keyFrames(s, apart)), 0)) ?? plain;
}

/** The best of all kinds of camera that are tried. */
function bestFound(s: Sightings, keys: readonly number[], known: Known, allowed: Allowed): Found | null {
  const { size } = s;
  const hd = halfDiagonal(size);
  const lens = known.lens ?? { k1: 0, k2: 0 };
  const supposed = (widths: readonly number[]): Optics[] =>
    (known.focal ? [known.focal / size.width] : widths).map((w) => ({ focal: (w * size.width) / hd, ...lens }));
  const shares = [...(known.focal ? [] : [0]), ...(known.lens ? [] : [1])];
  const turning: Freedom = { moves: TURNS, shares };
  const moving: Freedom = { moves: MOVES, shares };
  const turned = known.kind === 'moving' ? [] : supposed(SUPPOSED_TURNING).map((o) => tripodCamera(s, o, turning));
  if (known.kind === 'tripod') return foundAs(bestFirst(s, turned)[0], turning);
  const some = supposed(SUPPOSED);
  const beginning = beginningWith(s, some, keys);
  const moved = beginning.starts.slice(0, 1).flatMap((pair) => movingCamera(s, some, keys, moving, pair));
  const best = bestFirst(s, [...turned, ...moved])[0];
  const plain = foundAs(best, best && turned.includes(best) ? turning : moving);
  if (plain && shareExplained(s, plain.scene, keys) >= WELL_EXPLAINED) return plain;
  return foundAgain(s, plain, beginning, { some, moving, allowed });
}

/** Which two key frames are begun with hardly goes by the focal length. */
function beginningWith(s: Sightings, supposed: readonly Optics[], keys: readonly number[]): Beginning {
  return { keys, starts: startsOf(s, supposed[Math.floor(supposed.length / 2)]!, keys) };
}

const foundAs = (scene: Scene | undefined, freedom: Freedom): Found | null => (scene ? { scene, freedom } : null);

const rolls = ({ freedom }: Found): boolean => freedom.moves.includes(ROLLS[0]!);

/** What was found by key frames, and where every frame stands. */
interface Whole {
  readonly found: Found;
  readonly scene: Scene;
  readonly isTurning: boolean;
}

function whole(s: Sightings, keys: readonly number[], known: Known, allowed: Allowed): Whole | null {
  const found = bestFound(s, keys, known, allowed);
  if (!found || found.scene.points.size < SCENE.leastPoints) return null;
  const isTurning = found.freedom.moves === TURNS;
  const own = isTurning ? found : freed(s, patiently(s, found), allowed);
  return { found: own, scene: everyFrame(s, own.scene, own.freedom, isTurning), isTurning };
}

/** Times that rows and the camera's turning are solved for by one another. By trial. */
const LINKING = 2;

/** A rolling shutter's scene solved again with rows that are expected to turn as the camera does. */
function linked(s: Sightings, all: Whole): Whole {
  const { freedom } = all.found;
  let { found, scene } = all;
  for (let round = 0; round < LINKING; round++) {
    const told = withRowsExpected(scene.views);
    const keys = [...found.scene.views].map(([frame, v]) => [frame, told.get(frame) ?? v] as const);
    found = { freedom, scene: settled(s, { ...found.scene, views: new Map(keys) }, freedom, GROWN) };
    scene = everyFrame(s, found.scene, freedom, false, told);
  }
  return { ...all, found, scene };
}

/** @throws nothing; a shot that tells too little has a scene with few views or none */
export function solveCamera(
  tracks: readonly PointTrack[],
  size: PictureSize,
  frames: number,
  known: Known = {},
): SolvedCamera | null {
  const s = new Sightings(
    tracks.filter((t) => t.places.length > 2),
    size,
    frames,
  );
  const keys = keyFrames(s);
  const mayZoom = known.focal === undefined;
  const first = whole(s, keys, known, { mayZoom, mayRoll: true });
  // Rows that do not turn with the camera make up for something else.
  const isMadeUp = first !== null && rolls(first.found) && !turnsWithReadout(first.scene.views);
  const told = isMadeUp ? whole(s, keys, known, { mayZoom, mayRoll: false }) : first;
  if (!told) return null;
  const all = rolls(told.found) ? linked(s, told) : told;
  const { scene, freedom } = all.found;
  return {
    uncertainty: uncertaintyOf(s, scene, freedom),
    kind: all.isTurning ? 'tripod' : 'moving',
    isZoom: freedom.moves.includes(ZOOMS),
    isRolling: rolls(all.found),
    scene: all.scene,
    sightings: s,
    keys,
    freedom,
  };
}
