/** The recipe of a Screen, checked against its schema and against what only the maths can say. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { checkScreen } from '@yarlop/contracts/validate';
import type { Density } from '@yarlop/core/follow/cells';
import type { Evidence, FollowSetup } from '@yarlop/core/follow/results';
import { FOLLOWER_VERSION } from '@yarlop/core/follow/follower';
import { followRegion } from '@yarlop/core/follow/region';
import { assertPin } from '@yarlop/core/geometry/quad';
import { InputError } from './pipeline-error';

export interface PlateSize {
  readonly width: number;
  readonly height: number;
  readonly frameCount: number;
}

/** @throws ContractError or CoreError */
export function parseScreen(value: unknown, what?: string): ScreenFile {
  const screen = checkScreen(value, what);
  assertPin(screen.pin);
  return screen;
}

/** Kinds of evidence that the follower has. */
const EVIDENCE: readonly Evidence[] = ['texture', 'edges'];

/** What the follower is to do. @throws InputError or CoreError naming the part of the recipe that does not fit the plate */
export function followSetup(screen: ScreenFile, plate: PlateSize): FollowSetup {
  if (screen.referenceFrame >= plate.frameCount)
    throw new InputError(`referenceFrame is ${screen.referenceFrame}, but the plate has frames 0 to ${plate.frameCount - 1}; set a reference frame inside it.`);
  assertPin(screen.pin);
  const patches = screen.patches ?? [];
  followRegion(screen.pin, patches, { radial: 0, width: plate.width, height: plate.height });
  const wanted = screen.evidence === undefined || screen.evidence === 'auto' ? EVIDENCE : screen.evidence;
  const missing = wanted.filter((e) => !EVIDENCE.includes(e as Evidence));
  if (missing.length > 0)
    throw new InputError(`evidence names ${missing.join(', ')}, which this version cannot follow; use "auto" or ["texture"].`);
  return { pin: screen.pin, patches, motion: screen.motion ?? 'perspective', density: (screen.density ?? 'usual') as Density, evidence: wanted as Evidence[] };
}

/** Just what a solve depends on, in a fixed order, to be hashed: a new name, a fill or a nudge of the pin outdates nothing. */
export function solveIdentity(screen: ScreenFile, plateHash: string): string {
  return JSON.stringify([
    FOLLOWER_VERSION, plateHash, screen.referenceFrame, screen.patches ?? [], screen.motion ?? 'perspective',
    screen.evidence ?? 'auto', screen.density ?? 'usual',
  ]);
}
