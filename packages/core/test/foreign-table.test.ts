import { describe, expect, it } from 'vitest';
import type { ForeignOptions } from '../src/formats/foreign-table';
import { foreignTrack, readForeign } from '../src/formats/foreign-table';
import { allowedMs } from './builders/on-time';

const PLATE = { name: 'quay.mp4', width: 640, height: 360, frameRate: [24, 1] as const, firstFrame: 0, frameCount: 40 };
const HEAD = 'frame,tl x,tl y,tr x,tr y,br x,br y,bl x,bl y';
const row = (n: number, at = 0): string => [n, 100 + at, 50, 400 + at, 60, 390 + at, 300, 90 + at, 310].join(',');
const options = (text: string, more: Partial<ForeignOptions> = {}): ForeignOptions => ({
  name: 'other',
  plate: PLATE,
  columns: readForeign(text).columns!,
  ...more,
});
const track = (text: string, more: Partial<ForeignOptions> = {}) =>
  foreignTrack(readForeign(text), options(text, more));

describe('a table of another program', () => {
  it.each([
    ['commas', (t: string) => t],
    ['semicolons and decimal commas', (t: string) => t.replaceAll('.', '§').replaceAll(',', ';').replaceAll('§', ',')],
    ['tabs', (t: string) => t.replaceAll(',', '\t')],
    ['blanks', (t: string) => t.split('\n').slice(1).join('\n').replaceAll(',', '  ')],
    ['a byte-order mark and Windows line ends', (t: string) => `\uFEFF${t.replaceAll('\n', '\r\n')}`],
  ] as const)('is read with %s', (_, turned) => {
    const t = track(turned([HEAD, row(0, 0.5), row(1, 1.5), row(2, 2.5)].join('\n')));
    expect(t.track.screens[0]!.frames.map((f) => f.corners[0]![0])).toEqual([100.5, 101.5, 102.5]);
    expect(t.notes).toEqual([]);
  });
  it('closes frames that are missing, and tells it', () => {
    const { track: t, notes } = track([HEAD, row(0), row(4, 8)].join('\n'));
    expect(t.screens[0]!.frames.map((f) => f.corners[0]![0])).toEqual([100, 102, 104, 106, 108]);
    expect(notes[0]).toMatch(/3 frames are missing/);
  });
  it('puts corners that come row by row around the screen, and tells it', () => {
    const zig = ['frame,a,b,c,d,e,f,g,h', '0,100,50,400,60,90,310,390,300'].join('\n');
    const { track: t, notes } = track(zig);
    expect(t.screens[0]!.frames[0]!.corners[2]).toEqual([390, 300]);
    expect(notes[0]).toMatch(/row by row/);
  });
  it('tells mirrored corners, swapped axes, and rows outside the plate', () => {
    expect(track([HEAD, '0,400,60,100,50,90,310,390,300'].join('\n')).notes[0]).toMatch(/against the clock/);
    expect(track([HEAD, '0,5000,100,6000,100,6000,400,5000,400'].join('\n')).notes[0]).toMatch(/far outside/);
    expect(track([HEAD, row(0), row(1), row(99)].join('\n')).notes[0]).toMatch(/1 rows lie outside/);
  });
  it('takes another program’s conventions and its number of the first frame', () => {
    const { track: t } = track([HEAD, '1001,0.25,0.75,0.75,0.75,0.75,0.25,0.25,0.25'].join('\n'), {
      firstNumber: 1001,
      conventions: { origin: 'bottom-left', units: 'normalised', pixelOrigin: 'corner', size: [640, 360] },
    });
    expect(t.screens[0]!.frames[0]!.corners[0]).toEqual([160, 90]);
  });
  it.each([
    [`${HEAD}\n${row(3)}\n${row(3)}`, /Line 3: frame 3 stands here and on line 2/],
    [`${HEAD}\n0,1,2,x,4,5,6,7,8`, /Line 2: a corner is no number/],
    [`${HEAD}\n0.5,1,2,3,4,5,6,7,8`, /Line 2: .*whole number/],
    [`${HEAD}\n0,100,50,100,50,390,300,90,310`, /Line 2: Two corners/],
    [`${HEAD}\n${row(500)}`, /outside the plate/],
  ])('refuses what is wrong, with its line', (text, message) => {
    expect(() => track(text)).toThrow(message);
  });
  it('says that columns must be told when neither names nor order tell them', () => {
    expect(readForeign('time,one,two\n0,1,2\n').columns).toBeNull();
    expect(() => readForeign('\n\n')).toThrow(/no rows/);
  });
  it('of a hundred thousand rows is read within seconds', () => {
    const text = `${HEAD}\n${Array.from({ length: 100_000 }, (_, n) => row(n)).join('\n')}`;
    const began = performance.now();
    expect(readForeign(text).rows).toHaveLength(100_000);
    expect(performance.now() - began).toBeLessThan(allowedMs(5000));
  });
});
