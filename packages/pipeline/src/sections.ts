/** Sections of a recipe: stretches of frames that are followed otherwise than the rest of the shot. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { FollowSection, Ways } from '@yarlop/core/follow/memory/follower-state';
import type { Evidence } from '@yarlop/core/solve/frame-result';
import { InputError } from './pipeline-error';

type Section = NonNullable<ScreenFile['sections']>[number];

/** Settings that a section may name for its frames. */
export type SectionWays = NonNullable<Section['over']>;

/** Frames of a shot that are followed in one way. */
export interface Part {
  /** inclusive */
  readonly from: number;
  /** inclusive; infinite for the last one */
  readonly to: number;
  /** the recipe as if it had no sections, with what holds here */
  readonly screen: ScreenFile;
  /** the same with what these frames are followed with first; null where they are followed once */
  readonly first: ScreenFile | null;
}

/** All evidence that a recipe takes without naming any. */
const ANY: readonly Evidence[] = ['texture', 'edges', 'spots', 'hand'];

/** What a recipe's evidence means to the follower. */
export function evidenceOf(evidence: ScreenFile['evidence']): readonly Evidence[] {
  return evidence === undefined || evidence === 'auto' ? ANY : evidence;
}

function settingsIn({ from: _from, to: _to, over: _over, ...ways }: Section): SectionWays {
  return ways;
}

/** The whole shot in order, from frame 0 on. */
export function partsOf(screen: ScreenFile): Part[] {
  const { sections = [], ...plain } = screen;
  const parts: Part[] = [];
  let next = 0;
  for (const s of sections) {
    if (s.from > next) parts.push({ from: next, to: s.from - 1, screen: plain, first: null });
    parts.push({
      from: s.from,
      to: s.to,
      screen: { ...plain, ...settingsIn(s) },
      first: s.over ? { ...plain, ...s.over } : null,
    });
    next = s.to + 1;
  }
  return [...parts, { from: next, to: Infinity, screen: plain, first: null }];
}

/** @throws InputError for sections that are out of order, overlap, or lie outside the plate */
export function assertSections({ sections = [] }: ScreenFile, frameCount: number): void {
  let last = -1;
  for (const { from, to } of sections) {
    if (from > to)
      throw new InputError(`sections names the frames ${from} to ${to}; the first of them must come first.`);
    if (to >= frameCount)
      throw new InputError(
        `sections names frame ${to}, but the plate has frames 0 to ${frameCount - 1}; end the section inside it.`,
      );
    if (from <= last)
      throw new InputError(
        `The section from frame ${from} begins before the one before it ends; put sections in order, one after the other.`,
      );
    last = to;
  }
}

/** A section's settings as the follower takes them. @param patchesOf outlines with what the area adds to them */
function waysOf(ways: SectionWays, patchesOf: (p: ScreenFile['patches']) => FollowSection['ways']['patches']): Ways {
  const { patches, evidence, lens, motion, density, levels, reading } = ways;
  return {
    ...(motion ? { motion } : {}),
    ...(density ? { density } : {}),
    ...(levels ? { levels } : {}),
    ...(reading ? { reading } : {}),
    ...(patches ? { patches: patchesOf(patches)! } : {}),
    ...(evidence ? { evidence: evidenceOf(evidence) } : {}),
    ...(lens === undefined ? {} : { lens: lens === 'auto' ? undefined : lens }),
  } as Ways;
}

/** Readings that sections name in the place of the shot's own, each once. */
export function readingsOfSections({
  sections = [],
}: Pick<ScreenFile, 'sections'>): NonNullable<SectionWays['reading']>[] {
  return [...new Set(sections.flatMap((s) => [s.reading, s.over?.reading]))].filter((r) => r !== undefined);
}

/** A recipe's sections as the follower takes them. */
export function followSections(
  { sections = [] }: ScreenFile,
  patchesOf: (p: ScreenFile['patches']) => FollowSection['ways']['patches'],
): FollowSection[] {
  return sections.map((s) => ({
    from: s.from,
    to: s.to,
    ways: waysOf(settingsIn(s), patchesOf),
    ...(s.over ? { over: waysOf(s.over, patchesOf) } : {}),
  }));
}
