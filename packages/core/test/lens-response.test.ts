/** Frames as they lie behind a lens that is typed after following, against runs behind it and against the truth. */
import { describe, expect, it } from 'vitest';
import { Follower } from '../src/follow/follower';
import { lensResponse, planeResponse } from '../src/follow/evidence/lens-response';
import type { Quad } from '../src/geometry/quad';
import { farthest, mapQuad } from '../src/geometry/quad';
import { behindLens } from '../src/solve/behind-lens';
import { BARREL, bowedShot } from './builders/bowed';

/** What both runs of the shot are followed behind: too weak a lens, and the true one. */
const TYPED = -0.04;
const { pin, frame, truthAt } = bowedShot();

/** The shot followed behind a lens, frame 1 first. */
function followed(lens: number, frames: number) {
  const follower = new Follower(
    { pin, patches: [], motion: 'perspective', density: 'usual', evidence: ['texture', 'edges'], lens },
    0,
    frame(0),
  );
  return Array.from({ length: frames }, (_, i) => follower.step(i + 1, frame(i + 1)));
}

describe('a lens that is typed after following', () => {
  it('puts the corners where a run behind it has them, through pictures remembered on the way, and nearer to the truth', () => {
    const FRAMES = 20;
    const [before, run] = [followed(TYPED, FRAMES), followed(BARREL.radial, FRAMES)];
    for (const [i, f] of before.entries()) {
      const corners = mapQuad(f.homography!, pin);
      const moved = mapQuad(behindLens(f.homography!, f, pin, BARREL.radial)!, pin);
      const own = mapQuad(run[i]!.homography!, pin);
      // The change of the term is larger than most lenses' whole term; what is not linear in it is left.
      expect(farthest(moved, own)).toBeLessThan(0.12);
      expect(farthest(moved, truthAt(i + 1))).toBeLessThan(0.17);
      if (i + 1 >= 10) expect(farthest(moved, own)).toBeLessThan(farthest(corners, own) / 2);
    }
    // By then three quarters of a px lie between them.
    expect(farthest(mapQuad(before.at(-1)!.homography!, pin), truthAt(FRAMES))).toBeGreaterThan(0.6);
  });

  it('leaves a frame as it is where the lens is the same, and says nothing where the frame tells nothing', () => {
    const [first] = followed(TYPED, 1);
    expect(behindLens(first!.homography!, first!, pin, TYPED)).toBe(first!.homography);
    expect(behindLens(first!.homography!, { ...first!, bow: null }, pin, TYPED + 0.01)).toBeNull();
    expect(behindLens(first!.homography!, { bow: first!.bow! }, pin, TYPED)).toBeNull();
  });

  it('moves nothing in the picture of a plane that stands still', () => {
    // Nothing moved since the reference: the same px of the picture are the same places, whatever the lens.
    const glass: Quad = [
      [300, 150],
      [500, 160],
      [490, 300],
      [295, 290],
    ];
    const stays = [0, 0, 0, 0, 0, 0, 0, 0];
    const moved = lensResponse([1, 0, 0, 0, 1, 0, 0, 0, 1], glass, BARREL, stays);
    for (const px of moved) expect(Math.abs(px)).toBeLessThan(0.01);
    expect(planeResponse([])).toBeNull();
  });
});
