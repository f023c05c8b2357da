/**
 * A rough place of a Screen's outline made better on larger and larger pictures: moved, made larger, turned, and at last
 * each corner by itself, as long as more of the device's lines come to lie on edges. The lines beside the glass count as
 * well: an outline that lies on a neighbour's line leaves them without an edge.
 */
import { mapPoint, quadToQuad } from '../../geometry/homography';
import type { Line } from '../../geometry/line';
import type { Matrix3 } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad, signedArea } from '../../geometry/quad';
import type { Pyramid, PyramidLevel } from '../../image/pyramid';
import type { Slopes } from './outline-agreement';
import { STRETCHES, agreementsAlong, scoreOfTold, slopesOf } from './outline-agreement';

const REFINE = {
  /** px; width of the largest picture that is looked at, at the most. By trial. */
  largest: 1000,
  /** Pictures, each half as large as the one before, that are looked at from the smallest on. By trial. */
  pictures: 3,
  /** px, at the corners, by which a place may be off in each way on the smallest picture. By trial. */
  rough: 2,
  /** Steps on one picture, at the most. By trial. */
  steps: 24,
  /** px by which corners are moved. By trial. */
  move: 1,
} as const;

type Move = (q: Quad) => Quad;

const SHIFTS: readonly Point[] = [
  [REFINE.move, 0],
  [-REFINE.move, 0],
  [0, REFINE.move],
  [0, -REFINE.move],
];

/** Made larger and turned about the middle, so far that corners move by about a px. */
function turnedBy(grow: number, turn: number): Move {
  return (q) => {
    const x = (q[0][0] + q[1][0] + q[2][0] + q[3][0]) / 4;
    const y = (q[0][1] + q[1][1] + q[2][1] + q[3][1]) / 4;
    const step = REFINE.move / Math.max(1, Math.hypot(q[0][0] - x, q[0][1] - y));
    const c = 1 + grow * step;
    const s = turn * step;
    return q.map(([u, v]): Point => [x + c * (u - x) - s * (v - y), y + s * (u - x) + c * (v - y)]) as unknown as Quad;
  };
}

const AS_A_WHOLE: readonly Move[] = [
  ...SHIFTS.map(
    ([dx, dy]): Move =>
      (q) =>
        q.map(([x, y]): Point => [x + dx, y + dy]) as unknown as Quad,
  ),
  turnedBy(1, 0),
  turnedBy(-1, 0),
  turnedBy(0, 1),
  turnedBy(0, -1),
];

const BY_CORNERS: readonly Move[] = [0, 1, 2, 3].flatMap((i) =>
  SHIFTS.map(
    ([dx, dy]): Move =>
      (q) =>
        q.map(([x, y], k): Point => (k === i ? [x + dx, y + dy] : [x, y])) as unknown as Quad,
  ),
);

/** Every way in which a rough place may be off, as a whole. */
const ROUGHLY: readonly Move[] = (() => {
  const by: number[] = [];
  for (let d = -REFINE.rough; d <= REFINE.rough; d++) by.push(d);
  const shifts = by.flatMap((dx) => by.map((dy): Point => [dx, dy]));
  // Sizes and turns differ less than places, which were looked at px by px of a smaller picture.
  const every = by.filter((d) => d % REFINE.rough === 0);
  return every.flatMap((grow) =>
    every.flatMap((turn) =>
      shifts.map(([dx, dy]): Move => {
        const change = turnedBy(grow, turn);
        return (q) => change(q).map(([x, y]): Point => [x + dx, y + dy]) as unknown as Quad;
      }),
    ),
  );
})();

interface Picture {
  readonly level: PyramidLevel;
  readonly slopes: Slopes;
  /** times that it is smaller than the frame */
  readonly k: number;
}

/** Corners on one of the pictures. */
interface Found {
  readonly quad: Quad;
  readonly score: number;
}

interface Better {
  readonly place: Matrix3;
  /** 0 to 1 */
  readonly score: number;
}

/** The largest picture that is looked at and smaller ones, the smallest first. */
function picturesOf(pyramid: Pyramid): Picture[] {
  const largest = Math.max(
    0,
    pyramid.findIndex((l) => l.width <= REFINE.largest),
  );
  return pyramid
    .slice(largest, largest + REFINE.pictures)
    .map((level, i) => ({ level, slopes: slopesOf(level), k: 1 << (largest + i) }))
    .reverse();
}

/**
 * @param lines of the device beside the pin's sides, px of the reference frame
 * @returns a function that makes a map of the reference frame to this one better
 */
export function refinerOf(pin: Quad, lines: readonly Line[], pyramid: Pyramid): (h: Matrix3) => Better {
  const pictures = picturesOf(pyramid);
  const all = [...pin.map((a, i): Line => ({ a, b: pin[(i + 1) % 4]! })), ...lines];
  const room = new Float64Array(STRETCHES * all.length);
  const scoreAt = ({ slopes }: Picture, quad: Quad): number => {
    const h = quadToQuad(pin, quad);
    const turn = signedArea(quad) > 0 ? 1 : -1;
    let told = 0;
    for (const { a, b } of all) told += agreementsAlong(slopes, [mapPoint(h, a), mapPoint(h, b)], turn, room, told);
    return scoreOfTold(room, told, room.length);
  };
  const bestOf = (picture: Picture, from: Quad, moves: readonly Move[]): Found =>
    moves
      .map((move) => move(from))
      .map((quad): Found => ({ quad, score: scoreAt(picture, quad) }))
      .reduce((a, b) => (b.score > a.score ? b : a));
  const climb = (picture: Picture, from: Quad, moves: readonly Move[]): Quad => {
    let at: Found = { quad: from, score: scoreAt(picture, from) };
    for (let step = 0; step < REFINE.steps; step++) {
      const next = bestOf(picture, at.quad, moves);
      if (next.score <= at.score) break;
      at = next;
    }
    return at.quad;
  };
  return (h) => {
    let place = h;
    let score = 0;
    for (const [i, picture] of pictures.entries()) {
      const { level, k } = picture;
      const inPicture = ([x, y]: Point): Point => [x / k - level.x0, y / k - level.y0];
      const inFrame = ([x, y]: Point): Point => [(x + level.x0) * k, (y + level.y0) * k];
      let quad = mapQuad(place, pin).map(inPicture) as unknown as Quad;
      if (i === 0) ({ quad } = bestOf(picture, quad, ROUGHLY));
      quad = climb(picture, quad, AS_A_WHOLE);
      if (i === pictures.length - 1) quad = climb(picture, quad, BY_CORNERS);
      score = scoreAt(picture, quad);
      place = quadToQuad(pin, quad.map(inFrame) as unknown as Quad);
    }
    return { place, score };
  };
}
