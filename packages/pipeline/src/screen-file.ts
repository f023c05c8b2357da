/** The recipe of a Screen, checked against its schema and against what only the maths can say. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { checkScreen } from '@yarlop/contracts/validate';
import type { Bend } from '@yarlop/core/dress/shape/bend';
import { BEND_SIDES, bentSides, foldsOver } from '@yarlop/core/dress/shape/bend';
import type { Key } from '@yarlop/core/dress/base/keys';
import type { Retouch } from '@yarlop/core/dress/retouch/retouch';
import type { Outline } from '@yarlop/core/follow/outline/outlines';
import type { Density } from '@yarlop/core/follow/picture/cells';
import type { FollowSetup } from '@yarlop/core/follow/memory/follower-state';
import { isPresent } from '@yarlop/core/follow/memory/follower-state';
import type { Spot } from '@yarlop/core/follow/spots/spots';
import { SPOT_BOX, SPOT_SEARCH } from '@yarlop/core/follow/spots/spots';
import { FOLLOWER_VERSION } from '@yarlop/core/follow/follower';
import { followRegion } from '@yarlop/core/follow/outline/region';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import type { Quad } from '@yarlop/core/geometry/quad';
import { assertPin, mapQuad } from '@yarlop/core/geometry/quad';
import type { FollowedArea } from '@yarlop/core/pin/area';
import { followedArea } from '@yarlop/core/pin/area';
import type { Corrections } from '@yarlop/core/solve/touch-up';
import { lastingOf } from './frame-inputs';
import { InputError } from './pipeline-error';
import type { Part } from './sections';
import { assertSections, evidenceOf, followSections } from './sections';

export interface PlateSize {
  readonly width: number;
  readonly height: number;
  readonly frameCount: number;
}

/** @throws ContractError or CoreError */
export function parseScreen(value: unknown, what?: string): ScreenFile {
  const screen = checkScreen(value, what);
  assertPin(screen.pin);
  if (screen.area) assertPin(followedArea(screen.area).quad);
  assertBend(screen.dress?.bend as Bend | undefined, screen.referenceFrame);
  assertSections(screen, Infinity);
  if (screen.fill && !screen.fill.media && !screen.fill.made)
    throw new InputError(
      'The fill names neither a picture or clip nor a fill that is made up; choose one, or leave "fill" out.',
    );
  for (const h of screen.dress?.holdouts ?? [])
    if (h.kind === 'outline') assertOutline(h as Outline, 'An outline holdout');
  for (const r of screen.dress?.retouches ?? []) assertRetouch(r as Retouch);
  return screen;
}

/** @throws InputError for an outline with more or fewer numbers than points */
function assertOutline({ points, soft, handles, keys }: Outline, what: string): void {
  const n = points.length;
  if (soft && soft.length !== n)
    throw new InputError(
      `${what} has ${n} points but ${soft.length} softnesses; give one for each point, or leave "soft" out.`,
    );
  for (const shape of [{ points, handles }, ...(keys ?? [])])
    if (shape.handles && shape.handles.length !== n)
      throw new InputError(
        `${what} has ${n} points but ${shape.handles.length} handles; give one for each point of every shape, or leave "handles" out.`,
      );
}

/** @throws InputError for one whose place to take from is not said */
function assertRetouch(r: Retouch): void {
  assertOutline(r as Outline, 'A retouched region');
  if (r.kind === 'paint-out' && r.from === 'frame' && r.frame === undefined)
    throw new InputError('A mark is painted out from another frame, but "frame" is left out; say which one.');
}

/** @throws InputError for a bend that folds the fill over itself on a frame that has keys, or on the reference */
function assertBend(bend: Bend | undefined, referenceFrame: number): void {
  if (!bend) return;
  const handles = BEND_SIDES.flatMap((s) => bend[s] ?? []);
  const frames = handles
    .flatMap((h) => [h.x, h.y])
    .flatMap((v) => (Array.isArray(v) ? (v as readonly Key[]).map((k) => k.frame) : []));
  for (const frame of new Set([referenceFrame, ...frames])) {
    const sides = bentSides(bend, frame);
    if (sides && foldsOver(sides))
      throw new InputError(
        `The bend folds the fill over itself on frame ${frame}; move its handles nearer to their sides.`,
      );
  }
}

/** What is laid over the path that was followed. */
export function correctionsOf({ touchUps = [], settles = [] }: ScreenFile): Corrections {
  return { touchUps, settles };
}

/** A Screen's spots with what is looked for at each; none where it has none. */
export function spotsOf(screen: ScreenFile): Spot[] {
  return (screen.spots ?? []).map((s) => ({
    ...s,
    box: s.box ?? SPOT_BOX,
    search: s.search ?? SPOT_SEARCH,
    match: s.match ?? 'reference',
    keys: s.keys ?? [],
  }));
}

/** Whether the pin's corners are spots themselves: they follow the pin and nothing else. */
export function hasCornerSpots({ spots = [] }: Pick<ScreenFile, 'spots'>): boolean {
  return spots.some((s) => s.corner !== undefined);
}

/** What is followed of a Screen: its area, or the pin where none is told. */
export function areaOf(screen: ScreenFile): FollowedArea {
  return screen.area && !hasCornerSpots(screen) ? followedArea(screen.area) : { quad: screen.pin, patches: [] };
}

/** Hand keys as places of what is followed. */
function handOf({ hand = [], pin }: ScreenFile, quad: Quad): { frame: number; corners: Quad }[] {
  return hand.map(({ frame, corners }) => ({
    frame,
    corners: quad === pin ? corners : mapQuad(quadToQuad(pin, corners), quad),
  }));
}

/** @throws InputError for presence that is none, or that leaves out the reference frame */
function assertPresence({ presence = [], referenceFrame }: ScreenFile): void {
  for (const p of presence)
    if (p.from > p.to)
      throw new InputError(
        `presence names a range from ${p.from} to ${p.to}; its end must not come before its beginning.`,
      );
  if (!isPresent({ presence }, referenceFrame))
    throw new InputError(
      `presence leaves out the reference frame ${referenceFrame}; widen a range or choose another reference.`,
    );
}

/** @throws InputError for evidence of a kind that the Screen has none of */
function assertEvidence({ evidence, spots = [], hand = [] }: ScreenFile): void {
  const isAll = (kind: string): boolean => Array.isArray(evidence) && evidence.every((e) => e === kind);
  if (isAll('spots') && spots.length === 0)
    throw new InputError(
      'evidence is spots alone, but the Screen has no spot; add spots (four at the corners make a whole pin) or choose other evidence.',
    );
  if (isAll('hand') && hand.length === 0)
    throw new InputError(
      'evidence is the hand alone, but no frame was placed by hand; add a hand key or choose other evidence.',
    );
}

/**
 * What the follower is to do. @throws InputError or CoreError naming the part of the recipe that does not fit the plate
 */
export function followSetup(screen: ScreenFile, plate: PlateSize): FollowSetup {
  if (screen.referenceFrame >= plate.frameCount)
    throw new InputError(
      `referenceFrame is ${screen.referenceFrame}, but the plate has frames 0 to ${plate.frameCount - 1}; set a reference frame inside it.`,
    );
  assertPin(screen.pin);
  assertSections(screen, plate.frameCount);
  const area = areaOf(screen);
  const patchesOf = (own: ScreenFile['patches'] = []): FollowSetup['patches'] => [...own, ...area.patches];
  const sections = followSections(screen, patchesOf);
  const patches = patchesOf(screen.patches);
  for (const p of [patches, ...sections.flatMap(({ ways, over }) => [ways.patches ?? [], over?.patches ?? []])])
    followRegion(area.quad, p, { radial: 0, width: plate.width, height: plate.height });
  for (const k of screen.hand ?? []) assertPin(k.corners);
  assertPresence(screen);
  assertEvidence(screen);
  return {
    pin: area.quad,
    patches,
    motion: screen.motion ?? 'perspective',
    density: (screen.density ?? 'usual') as Density,
    evidence: evidenceOf(screen.evidence),
    hand: handOf(screen, area.quad),
    spots: spotsOf(screen),
    presence: screen.presence ?? [],
    keyFrames: screen.keyFrames ?? [],
    ...(screen.levels ? { levels: screen.levels } : {}),
    ...(typeof screen.lens === 'number' ? { lens: screen.lens } : {}),
    ...(sections.length > 0 ? { sections } : {}),
  };
}

/**
 * Just what a solve depends on, in a fixed order, to be hashed: a new name, a fill or a nudge of the pin outdates
 * nothing. Sections are solves of their own.
 */
export function solveIdentity({ screen, first }: Pick<Part, 'screen' | 'first'>, plateHash: string): string {
  const own = settingsIdentity(screen, plateHash);
  return first ? JSON.stringify([own, 'over', settingsIdentity(first, plateHash)]) : own;
}

/** The same as it was hashed before frames kept how spots were placed on them. */
export function formerIdentity({ screen, first }: Pick<Part, 'screen' | 'first'>, plateHash: string): string {
  const of = (s: ScreenFile): string => settingsIdentity(s, plateHash, s.spots ?? []);
  return first ? JSON.stringify([of(screen), 'over', of(first)]) : of(screen);
}

function settingsIdentity(screen: ScreenFile, plateHash: string, spots = lastingOf(screen.spots ?? [])): string {
  return JSON.stringify([
    FOLLOWER_VERSION,
    plateHash,
    screen.referenceFrame,
    screen.patches ?? [],
    screen.motion ?? 'perspective',
    screen.evidence ?? 'auto',
    screen.density ?? 'usual',
    screen.reading ?? 'auto',
    screen.levels ?? 'cells',
    screen.lens ?? 'auto',
    spots,
    ...(screen.area ? [screen.area] : []),
    ...(screen.ignores?.length ? [{ ignores: screen.ignores }] : []),
  ]);
}
