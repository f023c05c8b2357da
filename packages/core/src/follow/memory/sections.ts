/**
 * Stretches of frames that are followed otherwise than the rest of the shot: with other outlines, another motion model,
 * other evidence. A follower has one way of following; where it changes, another one goes on from where it stands.
 */
import type { FollowSetup, FollowerState } from './follower-state';

/** A shot as it is followed first, where sections are followed again on the steadied plate. */
export function followedFirst(setup: FollowSetup): FollowSetup {
  const { sections } = setup;
  if (!sections?.some((s) => s.over)) return setup;
  return { ...setup, sections: sections.map(({ from, to, ways, over }) => ({ from, to, ways: over ?? ways })) };
}

/** The part of a shot, if any, that a frame belongs to. @returns the last of those that hold it */
export function sectionOn<T extends { readonly from: number; readonly to: number }>(
  sections: readonly T[] | undefined,
  frame: number,
): T | undefined {
  return sections?.findLast((s) => frame >= s.from && frame <= s.to);
}

/** Tells what each frame is followed with; frames of one section are told the very same object. */
export function setupsOf(setup: FollowSetup): (frame: number) => FollowSetup {
  const { sections = [], ...plain } = setup;
  if (sections.length === 0) return () => setup;
  const own = new Map(sections.map((s) => [s, { ...plain, ...s.ways }]));
  return (frame) => {
    const section = sectionOn(sections, frame);
    return section ? own.get(section)! : plain;
  };
}

/**
 * A follower's first memory where it goes on with other settings: what the one before knew of the camera, the light and
 * the views that it remembered. Places of the plane are judged anew, unless they are the same ones; what lies across the
 * sides as well where pictures are read otherwise.
 * @param own that of the new follower, which saw the reference frame alone
 * @param before that of the follower that stands where it begins
 * @param now with what it goes on @param was with what the one before followed
 */
export function carriedOver(
  own: FollowerState,
  before: FollowerState,
  now: Pick<FollowSetup, 'patches' | 'density' | 'lens' | 'reading'>,
  was: Pick<FollowSetup, 'patches' | 'density' | 'reading'>,
): FollowerState {
  const { last, lost, surprise, hasRepeats, shutter, views, readout, keys, spans, glass, spots } = before;
  const isSamePicture = now.reading === was.reading;
  const isSamePlace = isSamePicture && now.patches === was.patches && now.density === was.density;
  const { looks } = isSamePicture ? before : own;
  const { trust, proof, railSpread, pictured, support } = isSamePlace ? before : own;
  return {
    ...own,
    ...{ last, lost, surprise, hasRepeats, shutter, views, looks, readout, keys, spans, glass, spots },
    ...{ trust, proof, railSpread, pictured, support },
    lens: now.lens === undefined ? before.lens : own.lens,
  };
}
