/** What is told of frames by experience: claims about the maths on tiny built tracks. */
import { describe, expect, it } from 'vitest';
import { asExperienced, experiencedSigma, shareWithinOne, sigmaOfShare } from '../src/follow/evidence/reliability';
import { trustOf } from '../src/follow/evidence/trust';
import type { Quad } from '../src/geometry/quad';
import { ABSENT } from '../src/solve/frame-result';

const PIN: Quad = [
  [100, 100],
  [300, 100],
  [300, 250],
  [100, 250],
];

/** Frames along x = 2 n^2, one of them aside by some px; each known to the same sigma. */
function track(
  o: { readonly aside?: number; readonly sigma?: number; readonly evidence?: Record<string, number> } = {},
) {
  const { aside = 0, sigma = 0.1, evidence = { edges: 1 } } = o;
  return Array.from({ length: 9 }, (_, frame) => ({
    frame,
    homography: [1, 0, 2 * frame ** 2 + (frame === 4 ? aside : 0), 0, 1, 0, 0, 0, 1],
    sigma: [sigma, sigma, sigma, sigma],
    trust: trustOf([sigma, sigma, sigma, sigma], 1, 1920),
    evidence,
    blur: 0,
    reason: null as string | null,
  }));
}
const told = (frames: ReturnType<typeof track>, exact: readonly number[] = [], width = 1920) =>
  asExperienced(frames, { exact: new Set(exact), pin: PIN, width });

describe('what is told of frames by experience', () => {
  it('is a larger sigma, the more so the less a frame rests on', () => {
    expect(experiencedSigma(0.1)).toBeCloseTo(0.127, 6);
    expect(experiencedSigma(0.5) / 0.5).toBeGreaterThan(experiencedSigma(0.1) / 0.1);
    // Beyond a px just so much is added.
    expect(experiencedSigma(8) - experiencedSigma(7)).toBeCloseTo(1.2, 6);
  });
  it('is a trust that is half where half of the frames lie within a px, and falls steadily', () => {
    expect(shareWithinOne(0.75)).toBe(0.5);
    const falling = [0.05, 0.2, 0.4, 0.8, 1.6, 6].map(shareWithinOne);
    expect(falling).toEqual([...falling].sort((a, b) => b - a));
    expect(falling[0]).toBeGreaterThan(0.999);
    expect(falling[5]).toBeLessThan(0.001);
  });
  it('counts px of a picture 1920 wide, whatever the plate has', () => {
    const wide = told(track({ sigma: 0.3 }))[4]!;
    const small = told(
      track({ sigma: 0.15 }).map((f) => ({ ...f, trust: trustOf(f.sigma, 1, 960) })),
      [],
      960,
    )[4]!;
    expect(small.trust).toBeCloseTo(wide.trust, 12);
    expect(small.sigma[0]).toBeCloseTo(wide.sigma[0]! / 2, 12);
  });
  it('doubts a frame that lies far beside the way of those around it, and not one in steady acceleration', () => {
    const steady = told(track());
    expect(steady[4]!.sigma[0]).toBeCloseTo(experiencedSigma(0.1), 12);
    expect(told(track({ aside: 20 }))[4]).toEqual({ ...steady[4], homography: expect.any(Array) as unknown });
    const sudden = told(track({ aside: 64 }))[4]!;
    expect(sudden.sigma[0]).toBeCloseTo(Math.hypot(experiencedSigma(0.1), 0.1 * 40), 9);
    expect(sudden.trust).toBeLessThan(0.01);
  });
  it('keeps how much of what is seen agrees', () => {
    const [half] = told(track().map((f) => ({ ...f, trust: 0.5 * f.trust })));
    expect(half!.trust).toBeCloseTo(0.5 * told(track())[0]!.trust, 9);
  });
  it('leaves alone what is exact, and what no picture or edge tells', () => {
    const frames = track({ aside: 100 });
    expect(told(frames, [4])[4]).toBe(frames[4]);
    const hand = track({ evidence: { hand: 1 } });
    expect(told(hand)).toEqual(hand);
    const bridged = frames.map((f) => ({ ...f, evidence: {} }));
    expect(told(bridged)).toEqual(bridged);
  });
});

describe('a frame that is smeared, beside one that could not be vouched for', () => {
  /** Frame 3 of the track is lost in all but name. */
  const beside = (o: { blur: number; width?: number; reason?: string; exact?: readonly number[] }) => {
    const { width = 1920, reason = null, exact = [] } = o;
    const frames = track().map((f) => ({ ...f, blur: o.blur }));
    frames[3] = { ...frames[3]!, trust: 0.01, reason };
    return told(frames, exact, width);
  };
  const alone = told(track());

  it('is trusted no more than that allows, up to two frames away, and its sigma says the same', () => {
    const trusts = beside({ blur: 20 }).map((f) => f.trust);
    expect([1, 2, 4, 5].map((n) => trusts[n])).toEqual([0.45, 0.45, 0.45, 0.45]);
    expect([trusts[0], trusts[6]]).toEqual([alone[0]!.trust, alone[6]!.trust]);
    const [sigma] = beside({ blur: 20 })[4]!.sigma;
    expect(shareWithinOne(sigma!)).toBeCloseTo(0.45, 9);
    expect(sigmaOfShare(0.5)).toBeCloseTo(0.75, 9);
  });
  it('stays as it is where it is hardly smeared, in px of a picture 1920 wide', () => {
    expect(beside({ blur: 10 })[4]!.trust).toBe(alone[4]!.trust);
    expect(beside({ blur: 10, width: 960 })[4]!.trust).toBe(0.45);
  });
  it('stays as it is beside a frame without the Screen, or one that somebody placed; and so does one that was placed', () => {
    expect(beside({ blur: 20, reason: ABSENT })[4]!.trust).toBe(alone[4]!.trust);
    expect(beside({ blur: 20, exact: [3] })[4]!.trust).toBe(alone[4]!.trust);
    expect(beside({ blur: 20, exact: [4] })[4]!.trust).toBe(track()[4]!.trust);
  });
});
