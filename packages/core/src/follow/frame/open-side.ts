/**
 * A side that three others leave open: where it may be along them. Three sides of a screen with a fourth that was lost, to
 * fingers, a cut or the picture's border, hold one another in place for ever, while the fourth slides along them unseen.
 */
import { quadToQuad, unitSquareToQuad } from '../../geometry/homography';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import type { Quad } from '../../geometry/quad';
import { mapQuad } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import type { EdgeFit } from '../edges/edge-solver';
import type { Rail } from '../edges/rails';
import type { Found, Hypothesis } from '../evidence/verdict';
import { agreesWell } from '../evidence/verdict';
import type { FrameContext } from '../memory/frame-context';
import { carriesScreen, contradictsStiffness, pictureScale } from '../memory/frame-context';
import { solveFrame } from './solve-frame';

const OPEN = {
  /** Share of a side's rail that must lie on its line for the side to hold. By trial. */
  holds: 0.33,
  /** The same below which it is open. By trial. */
  open: 0.2,
  /** px at 1920 wide; corners that are known better leave nothing open. By trial. */
  sigma: 3,
  /** px at 1920 wide; the farthest that it is looked for: it slides a little on each frame. By trial. */
  farthest: 200,
  /** px at 1920 wide between the places at which it is looked for: edges around each are found farther than that. By trial. */
  step: 16,
  /** Points of a side that tell whether it lies in the picture. */
  samples: 8,
  /** Share of them that must, for it to be seen there. By trial. */
  inside: 0.34,
  /** px at 1920 wide; sigma of each of the places. By trial. */
  placeSigma: 24,
  /** px at 1920 wide in which edges are looked for around each of them. By trial. */
  around: 20,
  /** Times as many edges that must lie on lines once an open side is found. By trial. */
  fuller: 1.08,
  /** Share of the corners' sigma without it that it must leave at the most. By trial. */
  closer: 0.7,
  /** Share of the edges by which fewer may be found there, where a picture agrees. By trial. */
  lessFound: 0.15,
  /** Share of the edges by which fewer of them may have light and dark as remembered there. By trial. */
  lessAlike: 0.2,
  /** Misfit of what lies across the sides by which it may look less like the device. By trial. */
  lessLike: 0.7,
} as const;

/** Per side, the largest share of one of its rails that lies on its line. */
function heldShares(e: EdgeFit, rails: readonly Rail[]): number[] {
  const hits = new Float64Array(rails.length);
  for (const [i, { rail }] of e.hits.entries()) if (e.terms.weight[i]! > 0) hits[rail]!++;
  return [0, 1, 2, 3].map((side) =>
    Math.max(0, ...rails.map((r, k) => (r.side === side ? hits[k]! / r.sites.length : 0))),
  );
}

/** The one side that is open while the three others hold; null where there is none. */
function openSide(e: EdgeFit, rails: readonly Rail[]): number | null {
  const shares = heldShares(e, rails);
  const open = [0, 1, 2, 3].filter((side) => shares[side]! < OPEN.open);
  return open.length === 1 && shares.filter((s) => s >= OPEN.holds).length === 3 ? open[0]! : null;
}

/** Whether enough of a side lies in the picture to be seen. */
function isInside([ax, ay]: Point, [bx, by]: Point, picture: Picture): boolean {
  let inside = 0;
  for (let i = 0; i < OPEN.samples; i++) {
    const t = (i + 0.5) / OPEN.samples;
    const [x, y] = [ax + t * (bx - ax), ay + t * (by - ay)];
    if (x > 0 && y > 0 && x < picture.width && y < picture.height) inside++;
  }
  return inside >= OPEN.inside * OPEN.samples;
}

interface Picture {
  readonly width: number;
  readonly height: number;
}

/** The rectangle of the slot with one side moved outwards by a share of its length across. */
function moved(side: number, by: number): Quad {
  const [top, right, bottom, left] = [0, 1, 2, 3].map((s) => (s === side ? by : 0)) as [number, number, number, number];
  return [
    [-left, -top],
    [1 + right, -top],
    [1 + right, 1 + bottom],
    [-left, 1 + bottom],
  ];
}

/**
 * Corners with the open side of a fit at the places where it may be seen, the nearest first: the others stay on their lines.
 * @param at where the fit has the corners, and what is known of the worst of them by evidence alone, px
 * @param picture px
 */
export function placesOfOpenSide(
  e: EdgeFit,
  rails: readonly Rail[],
  { corners, sigma }: { readonly corners: Quad; readonly sigma: number },
  picture: Picture,
): Quad[] {
  const side = openSide(e, rails);
  if (side === null) return [];
  const scale = picture.width / 1920;
  const ends = [side, (side + 1) % 4] as [0, 1];
  if (sigma < OPEN.sigma * scale) return [];
  const toPicture = unitSquareToQuad(corners);
  const at = (by: number): Quad => mapQuad(toPicture, moved(side, by));
  const travel = (q: Quad): number => Math.max(...ends.map((k) => distance(q[k], corners[k])));
  // A hundredth of the way across tells how far a px is.
  const perPx = 0.01 / Math.max(travel(at(0.01)), 1e-6);
  const far = OPEN.farthest * scale;
  const places: Quad[] = [];
  for (let px = OPEN.step * scale; px <= far; px += OPEN.step * scale)
    for (const by of [-px * perPx, px * perPx]) {
      const q = at(by);
      if (isInside(q[ends[0]], q[ends[1]], picture)) places.push(q);
    }
  return places;
}

/** Edges that lie on the lines of a fit. */
export function onLines(e: EdgeFit): number {
  return e.terms.weight.reduce((n, w) => n + (w > 0 ? 1 : 0), 0);
}

/** A frame as it is looked at near where the Screen is expected. */
export interface Seen extends Pick<Hypothesis, 'pyramid' | 'noise'> {
  readonly luma: RawLuma;
}

/**
 * The best so far, or one whose fourth side was found along the three that hold it: more of what is seen lies on the device's
 * lines there, and it looks no less like it.
 */
export function withOpenSide(c: FrameContext, { luma, pyramid, noise }: Seen, best: Found | null): Found | null {
  if (!best || best.reason !== null || !carriesScreen(c, best.edges) || agreesWell(best.alignment)) return best;
  const scale = pictureScale(c);
  const open = { corners: best.corners, sigma: best.freeSigma };
  let better = best;
  for (const corners of placesOfOpenSide(best.edges, c.sight.rails, open, luma)) {
    const start = quadToQuad(c.sight.pin, corners);
    const expected = { ...c.expected, corners, sigma: OPEN.placeSigma * scale };
    const f = solveFrame(c, { pyramid, noise, start, expected, reach: OPEN.around * scale, coarsest: Infinity });
    if (f && f.reason === null && isFuller(c, f, better)) better = f;
  }
  return better;
}

/** Whether clearly more edges lie on the device's lines, on one side more, alike and as the screen's stiffness has it. */
function isFuller(c: FrameContext, f: Found, than: Found): boolean {
  if (!carriesScreen(c, f.edges) || !carriesScreen(c, than.edges)) return false;
  // A picture that agrees there and nowhere else says it all.
  if (agreesWell(f.alignment)) return f.edges.found > than.edges.found - OPEN.lessFound;
  if (f.misfit > than.misfit + OPEN.lessLike || f.edges.alike < than.edges.alike - OPEN.lessAlike) return false;
  if (contradictsStiffness(c, f.edges, f.corners, c.expected.speed)) return false;
  return onLines(f.edges) > OPEN.fuller * onLines(than.edges) && f.edgeSigma < OPEN.closer * than.edgeSigma;
}
