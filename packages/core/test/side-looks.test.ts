import { describe, expect, it } from 'vitest';
import {
  firstLooks,
  foreshortening,
  learnLooks,
  likenessOf,
  seenAcross,
  smearAcross,
} from '../src/follow/edges/side-looks';
import type { SideLooks } from '../src/follow/edges/side-looks';
import type { Matrix3 } from '../src/geometry/matrix3';
import { IDENTITY } from '../src/geometry/matrix3';
import { quadToQuad } from '../src/geometry/homography';
import { buildPyramid } from '../src/image/pyramid';
import type { DeviceOptions } from './builders/device';
import { DARK, GLASS, around, device } from './builders/device';
import { moved, renderScene } from './builders/scene';

const NO_SMEAR = [0, 0, 0, 0];
const seen = (o: DeviceOptions, h: Matrix3 = IDENTITY, gain = 1): Float64Array =>
  seenAcross(buildPyramid(renderScene(device(o, { gain: () => gain }), 0), 1)[0]!, GLASS, h);
const remembered = (): SideLooks => firstLooks(seen(DARK), [9, 9, 9, 9]);
const misfit = (o: DeviceOptions, h: Matrix3 = IDENTITY, gain = 1): number =>
  likenessOf(remembered(), seen(o, h, gain), NO_SMEAR).misfit;

describe('what a device shows across its sides', () => {
  it('fits where the device is', () => {
    expect(misfit(DARK)).toBeLessThan(0.2);
  });
  it('does not fit where a side lies on the line of its neighbour', () => {
    const [a, b, c, d] = GLASS;
    const onBezel = quadToQuad(GLASS, [a, [b[0] + 9, b[1]], [c[0] + 9, c[1]], d]);
    expect(misfit(DARK, onBezel)).toBeGreaterThan(3.5);
  });
  it('is less likely where all sides lie on the lines of their neighbours, which looks like another exposure', () => {
    const log = (h: Matrix3): number => likenessOf(remembered(), seen(DARK, h), NO_SMEAR).log;
    expect(log(quadToQuad(GLASS, around(9)))).toBeLessThan(log(IDENTITY) - 3);
  });
  it('fits whatever the glass shows and whatever lies behind', () => {
    expect(misfit({ ...DARK, glassGrey: 235, behind: 40 })).toBeLessThan(1);
  });
  it('fits when all becomes darker', () => {
    expect(misfit(DARK, IDENTITY, 0.6)).toBeLessThan(1);
  });
  it('is likelier at the true place than beside it', () => {
    const beside = likenessOf(remembered(), seen(DARK, moved(GLASS, { x: 7 })), NO_SMEAR).log;
    expect(likenessOf(remembered(), seen(DARK), NO_SMEAR).log).toBeGreaterThan(beside + 5);
  });
  it('tells nothing for or against a side outside the picture', () => {
    const outside = likenessOf(remembered(), seen(DARK, moved(GLASS, { x: 1000 })), NO_SMEAR);
    expect(outside.misfit).toBe(1);
  });
  it('learns the same after it was stored and read again', () => {
    const learned = (l: SideLooks): string => JSON.stringify(learnLooks(l, seen(DARK), NO_SMEAR));
    const stored = JSON.parse(JSON.stringify(remembered())) as SideLooks;
    expect(learned(stored)).toBe(learned(remembered()));
  });
  it('takes what changes for less certain than what stays', () => {
    const other = (by: number): Float64Array => seen(DARK).map((v, i) => (i < 49 ? v + by : v));
    let looks = remembered();
    for (let n = 0; n < 30; n++) looks = learnLooks(looks, other(n % 2 === 0 ? -20 : 20), NO_SMEAR);
    const likely = (l: SideLooks): number => likenessOf(l, other(20), NO_SMEAR).misfit;
    expect(likely(looks)).toBeLessThan(0.8 * likely(remembered()));
  });
});

/** A picture in which everything moved sideways while the shutter was open. */
function movedSideways(px: number): Float64Array {
  const sharp = renderScene(device({ ...DARK, behind: 235 }), 0);
  const { data, width } = sharp;
  const smeared = data.map((_, i) => {
    const row = Math.floor(i / width) * width;
    let sum = 0;
    for (let k = -px / 2; k <= px / 2; k++) sum += data[row + Math.min(width - 1, Math.max(0, (i % width) + k))]!;
    return sum / (px + 1);
  });
  return seenAcross(buildPyramid({ ...sharp, data: smeared }, 1)[0]!, GLASS, IDENTITY);
}

describe('a device that is seen less sharply than it is remembered', () => {
  const BLUR = [0, 12, 0, 12];
  it('fits though movement brings what lies behind it into its rim', () => {
    expect(likenessOf(remembered(), movedSideways(12), BLUR).misfit).toBeLessThan(2);
    // What softness is told by takes the device for all there is.
    expect(likenessOf(remembered(), movedSideways(12), BLUR, 0).misfit).toBeGreaterThan(3);
  });
  it('still fits worse where a side lies on the line of its neighbour', () => {
    const [a, b, c, d] = GLASS;
    const onBezel = quadToQuad(GLASS, [a, [b[0] + 9, b[1]], [c[0] + 9, c[1]], d]);
    const at = (h: Matrix3): number => likenessOf(remembered(), seen(DARK, h), [0, 2, 0, 2]).log;
    expect(at(onBezel)).toBeLessThan(at(IDENTITY) - 2);
  });
  it('is as much softer across a side as that side is foreshortened', () => {
    const narrow = quadToQuad(GLASS, GLASS.map(([x, y]) => [x / 4, y]) as never);
    const [top, right] = foreshortening(GLASS, narrow);
    expect(top).toBeCloseTo(0, 6);
    // A box of 2.2 px of the frame is one of 8.8 px of the reference there, of which the reference has 2.2 itself.
    expect(right).toBeCloseTo(Math.sqrt(8.8 ** 2 - 2.2 ** 2), 2);
  });
  it('teaches nothing across a side that is foreshortened', () => {
    const other = seen({ ...DARK, bezelGrey: 130 });
    const before = remembered();
    const { mean } = learnLooks(before, other, [0, 8, 0, 8]);
    const changed = mean.map((v, i) => Number.isFinite(v) && v !== before.mean[i]);
    const ofSide = (side: number): boolean => changed.slice(side * 49, side * 49 + 49).some(Boolean);
    expect([0, 1, 2, 3].map(ofSide)).toEqual([true, false, true, false]);
  });
});

describe('smear across the sides', () => {
  it('is that of movement across each, in px of the reference', () => {
    const twice = quadToQuad(GLASS, GLASS.map(([x, y]) => [2 * x, 2 * y]) as never);
    const across = smearAcross(GLASS, twice, () => [8, 0]);
    expect(across[0]).toBeCloseTo(0, 6);
    expect(across[1]).toBeCloseTo(4, 6);
  });
});
