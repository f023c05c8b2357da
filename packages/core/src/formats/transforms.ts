/**
 * What the plane does to its picture, as plain moves: position, scale and rotation (a similarity) and the affine part,
 * fitted to chosen points of the plane by least squares, against the reference frame; or inverted, which holds the
 * Screen still. Source: S. Umeyama, Least-squares estimation of transformation parameters between two point patterns,
 * PAMI 13(4), 1991.
 */
import { mapPoint } from '../geometry/homography';
import { inverse } from '../geometry/matrix3';
import type { Point } from '../geometry/point';
import { distance } from '../geometry/point';
import { CORNER_NAMES, perspectiveCentre } from '../geometry/quad';
import type { ScreenTrack, Track } from '../track';
import type { Conventions } from './conventions';
import { conventionMatrix, describe, ownConventions } from './conventions';
import { table } from './text';
import { referencePin } from './track-json';

export interface Move {
  readonly frame: number;
  readonly label: number;
  /** of the anchor on the frame */
  readonly position: Point;
  /** times the reference's size */
  readonly scale: number;
  /** degrees, from x towards y of the file's coordinates */
  readonly rotation: number;
  /** a b tx, c d ty: (x, y) of the reference to the frame */
  readonly affine: readonly number[];
  /** farthest of the points from where the similarity, and the affine map, takes it */
  readonly misfit: readonly [similarity: number, affine: number];
  /** of the pin's corners, from where that takes them to where they are: the perspective that remains */
  readonly remains: { readonly similarity: readonly Point[]; readonly affine: readonly Point[] };
}

export interface MoveOptions {
  readonly conventions?: Conventions;
  readonly invert?: boolean;
  /** of the plane, px of the reference frame; the pin's corners when left out */
  readonly points?: readonly Point[];
}

const mean = (p: readonly Point[]): Point => [
  p.reduce((s, v) => s + v[0], 0) / p.length,
  p.reduce((s, v) => s + v[1], 0) / p.length,
];
const applied = (m: readonly number[], p: Point): Point => [
  m[0]! * p[0] + m[1]! * p[1] + m[2]!,
  m[3]! * p[0] + m[4]! * p[1] + m[5]!,
];
/** From where a map takes points to where they are. */
const leftOf = (from: readonly Point[], to: readonly Point[], m: readonly number[]): Point[] =>
  from.map((p, i): Point => {
    const [x, y] = applied(m, p);
    return [to[i]![0] - x, to[i]![1] - y];
  });
const farthestOf = (from: readonly Point[], to: readonly Point[], m: readonly number[]): number =>
  Math.max(...from.map((p, i) => distance(applied(m, p), to[i]!)));

function similarity(from: readonly Point[], to: readonly Point[]): number[] {
  const a = mean(from);
  const b = mean(to);
  let along = 0;
  let across = 0;
  let size = 0;
  for (const [i, p] of from.entries()) {
    const x = p[0] - a[0];
    const y = p[1] - a[1];
    const u = to[i]![0] - b[0];
    const v = to[i]![1] - b[1];
    along += x * u + y * v;
    across += x * v - y * u;
    size += x * x + y * y;
  }
  const c = along / size;
  const s = across / size;
  return [c, -s, b[0] - c * a[0] + s * a[1], s, c, b[1] - s * a[0] - c * a[1]];
}

function affine(from: readonly Point[], to: readonly Point[]): number[] {
  const a = mean(from);
  const b = mean(to);
  let xx = 0;
  let xy = 0;
  let yy = 0;
  let xu = 0;
  let yu = 0;
  let xv = 0;
  let yv = 0;
  for (const [i, p] of from.entries()) {
    const x = p[0] - a[0];
    const y = p[1] - a[1];
    const u = to[i]![0] - b[0];
    const v = to[i]![1] - b[1];
    [xx, xy, yy, xu, yu, xv, yv] = [xx + x * x, xy + x * y, yy + y * y, xu + x * u, yu + y * u, xv + x * v, yv + y * v];
  }
  const d = xx * yy - xy * xy;
  const p = (xu * yy - yu * xy) / d;
  const q = (yu * xx - xu * xy) / d;
  const r = (xv * yy - yv * xy) / d;
  const s = (yv * xx - xv * xy) / d;
  return [p, q, b[0] - p * a[0] - q * a[1], r, s, b[1] - r * a[0] - s * a[1]];
}

/** @param s in plate px. @returns moves in the convention's coordinates */
export function movesOf(
  track: Track,
  s: ScreenTrack,
  o: MoveOptions = {},
): { readonly anchor: Point; readonly moves: Move[] } {
  const { plate } = track;
  const c = o.conventions ?? ownConventions(plate.width, plate.height);
  const m = conventionMatrix(c, plate.width, plate.height);
  const pin = referencePin(s);
  const points = o.points ?? pin;
  const from = points.map((p) => mapPoint(m, p));
  const anchor = mapPoint(m, o.points ? mean(points) : perspectiveCentre(pin));
  const moves = s.frames.map((f): Move => {
    const to = points.map((p) => mapPoint(m, mapPoint(f.homography, p)));
    const [a, b] = o.invert ? [to, from] : [from, to];
    const like = similarity(a, b);
    const full = affine(a, b);
    const back = inverse([...full, 0, 0, 1]);
    if (!back.every(Number.isFinite))
      return {
        frame: f.frame,
        label: f.frame + plate.firstFrame,
        position: anchor,
        scale: 0,
        rotation: 0,
        affine: full,
        misfit: [Infinity, Infinity],
        remains: { similarity: [], affine: [] },
      };
    const corners = pin.map((p) => mapPoint(m, p));
    const onFrame = f.corners.map((p) => mapPoint(m, p));
    const [pinFrom, pinTo] = o.invert ? [onFrame, corners] : [corners, onFrame];
    return {
      frame: f.frame,
      label: f.frame + plate.firstFrame,
      position: applied(like, anchor),
      scale: Math.hypot(like[0]!, like[3]!),
      rotation: (Math.atan2(like[3]!, like[0]!) * 180) / Math.PI,
      affine: full,
      misfit: [farthestOf(a, b, like), farthestOf(a, b, full)],
      remains: { similarity: leftOf(pinFrom, pinTo, like), affine: leftOf(pinFrom, pinTo, full) },
    };
  });
  // Turns go on counting past half a circle, so that what reads them does not spin back.
  let turns = 0;
  return {
    anchor,
    moves: moves.map((v, i) => {
      const before = i > 0 ? moves[i - 1]!.rotation : v.rotation;
      if (v.rotation - before > 180) turns--;
      if (v.rotation - before < -180) turns++;
      return { ...v, rotation: v.rotation + 360 * turns };
    }),
  };
}

const says = (o: MoveOptions): string =>
  o.invert
    ? 'inverted: moves the frame back onto the reference, which holds the Screen still'
    : 'moves the reference onto the frame (match-move)';

/** Moves of a plane as CSV (RFC 4180): position in px, scale, turn in degrees, a row a frame. */
export function writeTransformCsv(track: Track, o: MoveOptions = {}): string {
  const { plate } = track;
  const c = o.conventions ?? ownConventions(plate.width, plate.height);
  const of = track.screens.map((s) => ({ s, ...movesOf(track, s, o) }));
  return table(
    [
      'Yarlop transform data, version 1',
      `plate: ${JSON.stringify(plate)}`,
      `coordinates: ${describe(c)}`,
      says(o),
      `anchors: ${JSON.stringify(Object.fromEntries(of.map((x) => [x.s.name, x.anchor])))}`,
      'position is the anchor on the frame; scale is times the reference; rotation in degrees from x towards y, counting on past 180; affine: x = a x + b y + tx, y = c x + d y + ty; misfits in the same units; after the similarity and after the affine map, what is left to each corner of the pin: the perspective that they do not hold',
    ],
    [
      'screen',
      'frame',
      'label',
      'x',
      'y',
      'scale',
      'rotation',
      'a',
      'b',
      'tx',
      'c',
      'd',
      'ty',
      'misfit_similarity',
      'misfit_affine',
      ...['similarity', 'affine'].flatMap((after) =>
        CORNER_NAMES.flatMap((name) => ['x', 'y'].map((axis) => `left_${after}_${name.toLowerCase()}_${axis}`)),
      ),
    ],
    of.flatMap(({ s, moves }) =>
      moves.map((v) => [
        ...[s.name, v.frame, v.label, ...v.position, v.scale, v.rotation, ...v.affine, ...v.misfit],
        ...v.remains.similarity.flat(),
        ...v.remains.affine.flat(),
      ]),
    ),
  );
}

/** Moves of a plane as JSON (RFC 8259): position in px, scale, turn in degrees. */
export function writeTransformJson(track: Track, o: MoveOptions = {}): string {
  const { plate } = track;
  const c = o.conventions ?? ownConventions(plate.width, plate.height);
  const screens = track.screens.map((s) => ({
    name: s.name,
    referenceFrame: s.referenceFrame,
    ...movesOf(track, s, o),
  }));
  return `${JSON.stringify({ format: 'yarlop-transforms', version: 1, plate, coordinates: describe(c), direction: says(o), conventions: c, screens }, null, 1)}\n`;
}
