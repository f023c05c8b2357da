/**
 * Which of its pictures a Screen shows. One that lights up, or cuts to something else, shows nothing that is remembered; what it
 * shows then is remembered too, as soon as its edges tell where the plane is, and known again when it comes back.
 */
import { cornerSigmas } from '../../geometry/corner-information';
import { mapPoint, unitSquareToQuad } from '../../geometry/homography';
import { distort } from '../../geometry/lens';
import type { Matrix3 } from '../../geometry/matrix3';
import { inverse } from '../../geometry/matrix3';
import type { Point } from '../../geometry/point';
import { distance } from '../../geometry/point';
import { mapQuad } from '../../geometry/quad';
import type { RawLuma } from '../../image/image';
import type { FrameContext } from '../memory/frame-context';
import { carriesScreen, pictureScale } from '../memory/frame-context';
import { alignPicture } from './picture-of-frame';
import type { Found, Hypothesis } from '../evidence/verdict';
import { agreesWell } from '../evidence/verdict';

const SHOWN = {
  /** Places on the glass that are looked at: columns and rows. By trial. */
  places: [16, 12],
  /** Grey of 255 by which a place must differ from the frame before to have changed. By trial. */
  change: 12,
  /** Share of the places that change at once where the picture does. By trial. */
  changed: 0.25,
  /** Of the places, how many must be seen on both frames. By trial. */
  leastSeen: 0.3,
  /** px; a picture that is smeared more is not remembered. By trial. */
  smear: 4,
  /** px at 1920 wide; nor is one of a frame whose corners its edges know worse. By trial. */
  sigma: 4,
  /** Share of the cells' weight that must agree for another view to be remembered. By trial. */
  support: 0.6,
  /** px a frame; views that move faster are not. By trial. */
  moves: 24,
  /** px; nor are those whose corners are known worse. By trial. */
  viewSigma: 1,
  /** Standard deviations by which a frame's edges may put a picture elsewhere than was thought, to tell of its place. By trial. */
  astray: 3,
} as const;

/** What is remembered of the picture from frame to frame, as plain data. */
export interface ShownMemory {
  /** grey of 255 at each place of the glass on the last frame that was taken; null where it was not seen, and before any was */
  readonly glass: readonly (number | null)[] | null;
  /** the frame on which it changed, where nothing that is remembered was seen since; null where that is not so */
  readonly cut: number | null;
}

export const NOTHING_SHOWN: ShownMemory = { glass: null, cut: null };

/** Where a frame's edges have the Screen. */
interface Placed {
  /** reference frame to the frame */
  readonly homography: Matrix3;
  /** per corner, px */
  readonly sigma: readonly number[];
}

/** The Screen shows a picture that is known, or a new one. */
type Change = { readonly kind: 'known'; readonly picture: number } | { readonly kind: 'new'; readonly placed: Placed };

/** Places of the glass, on the reference frame's ideal picture. */
function placesOf({ sight }: FrameContext): Point[] {
  const toPin = unitSquareToQuad(sight.pin);
  const [columns, rows] = SHOWN.places;
  return Array.from({ length: columns * rows }, (_, i) =>
    mapPoint(toPin, [((i % columns) + 0.5) / columns, (Math.floor(i / columns) + 0.5) / rows]),
  );
}

/** Mean grey of the three by three px about a place; null outside the picture. */
function greyAt({ width, height, data }: RawLuma, [px, py]: Point): number | null {
  const x = Math.floor(px);
  const y = Math.floor(py);
  if (!(x >= 1 && y >= 1 && x < width - 1 && y < height - 1)) return null;
  let sum = 0;
  for (let j = y - 1; j <= y + 1; j++) for (let i = x - 1; i <= x + 1; i++) sum += data[j * width + i]!;
  return Math.round(sum / 9 / (data instanceof Uint16Array ? 257 : 1));
}

function glassOf(c: FrameContext, luma: RawLuma, h: Matrix3): (number | null)[] {
  return placesOf(c).map((p) => greyAt(luma, distort(c.sight.lens, mapPoint(h, p))));
}

/** Whether the glass shows something else than on the frame before. */
export function hasChanged(before: ShownMemory['glass'], now: readonly (number | null)[]): boolean {
  if (!before) return false;
  const both = now.flatMap((v, i) => {
    const was = before[i] ?? null;
    return v === null || was === null ? [] : [Math.abs(v - was)];
  });
  if (both.length < SHOWN.leastSeen * now.length) return false;
  return both.filter((d) => d > SHOWN.change).length > SHOWN.changed * both.length;
}

/** A picture that is remembered and agrees with the frame, among those that are not shown now. */
function knownAgain(c: FrameContext, luma: RawLuma, f: Found): number | null {
  const { remembered, centre } = c.sight;
  const shown = remembered.shownOn(c.frame);
  const others = remembered.pictures.filter((p) => p !== shown);
  if (others.length === 0) return null;
  const pyramid = c.sight.pyramidFor(luma, f.homography, 24);
  const h: Hypothesis = { pyramid, noise: 1, start: f.homography, expected: c.expected, reach: 2, coarsest: 2 };
  for (const picture of others) {
    const key = remembered.viewFor(f.homography, centre, picture);
    const aligned = alignPicture(c, h, { start: f.homography, edges: f.edges, coarsest: h.coarsest, key });
    if (aligned && agreesWell(aligned.alignment)) return picture;
  }
  return null;
}

/** What the edges of a frame say of it; null where they do not carry it, or it is too smeared to be remembered. */
function placedByEdges(c: FrameContext, f: Found): Placed | null {
  if (!carriesScreen(c, f.edges) || f.smear.length > SHOWN.smear) return null;
  return { homography: f.edges.homography, sigma: cornerSigmas(f.edges.information, 50) };
}

function changeOf(c: FrameContext, luma: RawLuma, f: Found): Change | null {
  const picture = knownAgain(c, luma, f);
  if (picture !== null) return { kind: 'known', picture };
  const placed = placedByEdges(c, f);
  return placed && f.edgeSigma < SHOWN.sigma * pictureScale(c) ? { kind: 'new', placed } : null;
}

/**
 * Where a picture lies that is not the reference's is known no better than by the edges of the frame that it is remembered by;
 * those of each later frame tell of it as well.
 */
function refinePlace(c: FrameContext, { alignment, key, ...f }: Found): void {
  if (key.picture === 0 || !agreesWell(alignment)) return;
  const placed = placedByEdges(c, { alignment, key, ...f });
  const alone = alignment.alone();
  if (!placed || !alone) return;
  const { pin, remembered } = c.sight;
  const seen = mapQuad(inverse(alone.homography), mapQuad(placed.homography, pin));
  const off = mapQuad(key.homography, pin).map(
    (p, i) => distance(p, seen[i]!) / Math.hypot(placed.sigma[i]!, key.sigma[i]!),
  );
  if (Math.max(...off) < SHOWN.astray) remembered.refine(key, pin, seen, placed.sigma);
}

/** Remembers what a change tells; another picture than before is trusted all over. @param since frame on which it changed */
function takeUp(c: FrameContext, luma: RawLuma, change: Change, since: number, velocity: readonly Point[]): void {
  const { remembered, probation } = c.sight;
  probation.trust.fill(1);
  if (change.kind === 'known') return remembered.show({ from: since, picture: change.picture });
  const { homography, sigma } = change.placed;
  remembered.showNew(since, { frame: c.frame, luma, homography, kept: { sigma, velocity } });
}

/**
 * What a frame that was taken tells of the picture on the glass; what is remembered of that is amended.
 * @param velocity of the corners, px a frame
 */
export function learnShown(
  before: ShownMemory,
  c: FrameContext,
  luma: RawLuma,
  f: Found,
  velocity: readonly Point[],
): ShownMemory {
  if (!c.usesTexture) return before;
  const glass = glassOf(c, luma, f.homography);
  const since = before.cut ?? (hasChanged(before.glass, glass) ? c.frame : null);
  if (agreesWell(f.alignment) || since === null) {
    refinePlace(c, f);
    return { glass, cut: null };
  }
  const change = changeOf(c, luma, f);
  if (change) takeUp(c, luma, change, since, velocity);
  return { glass, cut: change ? null : since };
}

/** Whether a frame is remembered where its view is new. @param moved px since the frame before */
export function isWorthKeeping({ alignment, information }: Found, moved: number): boolean {
  return (
    alignment !== null &&
    alignment.support >= SHOWN.support &&
    moved <= SHOWN.moves &&
    Math.max(...cornerSigmas(information, 50)) <= SHOWN.viewSigma
  );
}
