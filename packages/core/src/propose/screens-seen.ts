/**
 * Screens that are seen on one frame: straight lines that end where they meet make outlines of devices, and of a device's
 * lines the likeliest are its glass.
 */
import { CoreError } from '../errors';
import { quantile } from '../statistics';
import type { Luma, Raster } from '../image/image';
import { estimateNoise } from '../image/noise';
import { mapPoint, unitSquareToQuad } from '../geometry/homography';
import { distance } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { farthest, perspectiveCentre } from '../geometry/quad';
import { deviceOf } from '../pin/proportions';
import { snapToGlass } from '../pin/snap-to-glass';
import type { Glass } from './glass-of-outline';
import { glassOfOutline, laidOntoLines } from './glass-of-outline';
import type { OutlineQuad } from './quads-of-lines';
import { quadsOfLines } from './quads-of-lines';
import { rectangleLook } from './rectangle-look';
import { segmentsOf } from './segments';
import type { SmallPicture } from './small-picture';
import { greyOf, slopesOf, smallPicture } from './small-picture';
import { straightLines } from './straight-lines';

export interface ProposedScreen {
  /** TL, TR, BR, BL of a content that stands upright on the picture; px of the plate */
  readonly corners: Quad;
  /** guessed from its proportions alone */
  readonly device: 'phone' | 'laptop' | 'tablet' | 'tv';
  readonly kind: 'lit' | 'dark' | 'keyed';
  /** 0 to 1; by it they are put in order, and it is no probability */
  readonly score: number;
}

const SEEN = {
  /** Lines that are joined to quads, the longest. By trial. */
  lines: 140,
  /** Outlines that are looked into for glass, the best. By trial. */
  outlines: 10,
  /** Share of an outline's size by which another of the same device differs from it at the most. By trial. */
  same: 0.1,
  /** px of the small picture by which two proposals differ. By trial. */
  apart: 2,
  /** Choices of a device's lines that are looked at for further proposals. By trial. */
  choices: 40,
  /** Further proposals of one device at the most. By trial. */
  others: 4,
  /** Score of a further choice of the first device's lines, over the one before. By trial. */
  perChoice: 0.8,
  /** Proposals that are laid onto the glass at the plate's own size. By trial. */
  laid: 3,
  /** px at 1920 wide by which laying it onto the glass may move a corner: beyond it lies another line. By trial. */
  snap: 10,
  /** Gain of the score for a cost less by 1. By trial. */
  perCost: 0.05,
} as const;

const LOOK = {
  /** Places along each side of the glass at which its light is looked at. By trial. */
  places: 24,
  /** Code values; a glass whose brighter part stays below is off. By trial. */
  dark: 70,
  /** Which of the values is its brighter part. By trial. */
  brighter: 0.8,
  /** Code values by which green or blue stand out of a keyed place. By trial. */
  keyed: 45,
  /** Share of keyed places of a keyed glass. By trial. */
  keyedShare: 0.5,
} as const;

const perimeter = (q: Quad): number => q.reduce((s, p, i) => s + distance(p, q[(i + 1) % 4]!), 0);

/** How much of a device an outline looks: its quality, and larger ones rather. */
const merit = (o: OutlineQuad, width: number): number => o.quality * Math.sqrt(perimeter(o.corners) / width);

/** The best of the outlines, one of each device and size. */
function distinct(outlines: readonly OutlineQuad[], width: number): OutlineQuad[] {
  const kept: OutlineQuad[] = [];
  for (const o of [...outlines].sort((a, b) => merit(b, width) - merit(a, width))) {
    if (kept.length >= SEEN.outlines) break;
    const isKnown = kept.some((k) => farthest(k.corners, o.corners) < (SEEN.same * perimeter(k.corners)) / 4);
    if (!isKnown) kept.push(o);
  }
  return kept;
}

function kindOf({ width, height, channels: [r, g, b] }: SmallPicture, glass: Quad): ProposedScreen['kind'] {
  const h = unitSquareToQuad(glass);
  const light: number[] = [];
  let keyed = 0;
  for (let k = 0; k < LOOK.places ** 2; k++) {
    const at = [(k % LOOK.places) + 0.5, Math.floor(k / LOOK.places) + 0.5].map((v) => v / LOOK.places);
    const [x, y] = mapPoint(h, at as [number, number]).map(Math.floor) as [number, number];
    if (x < 0 || y < 0 || x >= width || y >= height) continue;
    const [red, green, blue] = [r, g, b].map((c) => c[y * width + x]!) as [number, number, number];
    light.push(Math.max(red, green, blue));
    if (Math.max(green - Math.max(red, blue), blue - Math.max(red, green)) > LOOK.keyed) keyed++;
  }
  if (keyed > LOOK.keyedShare * light.length) return 'keyed';
  return quantile(light, LOOK.brighter) < LOOK.dark ? 'dark' : 'lit';
}

/** The choices of an outline's lines, the likeliest first, and what that one is worth. */
interface Scored {
  readonly choices: readonly Glass[];
  readonly score: number;
}

interface Found {
  readonly corners: Quad;
  readonly score: number;
}

/** Whether it is told already, or lies within another screen: a picture on a page is none of its own. */
function isKnown(found: readonly Found[], q: Quad): boolean {
  return found.some((f) => {
    const isWithin = distance(perspectiveCentre(f.corners), perspectiveCentre(q)) < perimeter(f.corners) / 10;
    return farthest(f.corners, q) < SEEN.apart || (isWithin && perimeter(q) < perimeter(f.corners));
  });
}

/** Further choices of a device's lines that differ from the likeliest and from each other. */
function otherChoices(p: SmallPicture, of: Scored | undefined, first: Found | undefined, noise: number): Found[] {
  const others: Found[] = [];
  for (const { corners } of of?.choices ?? []) {
    if (others.length >= SEEN.others) break;
    if ([first!, ...others].some((f) => farthest(f.corners, corners) < SEEN.apart)) continue;
    const score = of!.score * SEEN.perChoice ** (others.length + 1);
    others.push({ corners: laidOntoLines(p, corners, noise), score });
  }
  return others;
}

/** The likeliest glass of every outline, best first, and what else the lines of the best may mean. */
function glasses(p: SmallPicture, outlines: readonly OutlineQuad[], noise: number): Found[] {
  const scored = outlines
    .flatMap((outline): Scored[] => {
      const choices = glassOfOutline(p, outline.corners, noise, SEEN.choices);
      const worth = (g: Glass): number => merit(outline, p.width) * Math.exp(-SEEN.perCost * g.cost);
      return choices.length === 0 ? [] : [{ choices, score: worth(choices[0]!) }];
    })
    .sort((a, b) => b.score - a.score);
  const found: Found[] = [];
  for (const { choices, score } of scored) {
    const corners = laidOntoLines(p, choices[0]!.corners, noise);
    if (!isKnown(found, corners)) found.push({ corners, score });
  }
  return [...found, ...otherChoices(p, scored[0], found[0], noise)].sort((a, b) => b.score - a.score);
}

/** Laid onto the glass at the plate's own size; left as it is where that finds another line, or none. */
function laidOntoGlass(grey: Luma, rough: Quad): Quad {
  try {
    const { corners } = snapToGlass(grey, rough);
    return farthest(corners, rough) < (SEEN.snap * grey.width) / 1920 ? corners : rough;
  } catch (e) {
    if (e instanceof CoreError) return rough;
    throw e;
  }
}

/**
 * @param frame RGB or RGBA of any depth
 * @param most proposals at the most
 * @returns best first; empty where nothing looks like a screen
 */
export function screensSeen(frame: Raster, most = 6): ProposedScreen[] {
  const p = smallPicture(frame);
  const noise = estimateNoise(greyOf(p));
  const lines = straightLines(segmentsOf(slopesOf(p), noise), SEEN.lines);
  const outlines = distinct(quadsOfLines(lines, p.width, p.height), p.width);
  const grey = greyOf(smallPicture(frame, frame.width));
  const proposals: ProposedScreen[] = [];
  for (const { corners, score } of glasses(p, outlines, noise)) {
    if (proposals.length >= most) break;
    const rough = corners.map(([x, y]) => [x * p.scale, y * p.scale]) as unknown as Quad;
    const laid = proposals.length < SEEN.laid ? laidOntoGlass(grey, rough) : rough;
    if (proposals.some((q) => farthest(q.corners, laid) < SEEN.apart)) continue;
    const { aspect } = rectangleLook(corners, p.width, p.height);
    proposals.push({ corners: laid, device: deviceOf(aspect), kind: kindOf(p, corners), score: score / (1 + score) });
  }
  return proposals;
}
