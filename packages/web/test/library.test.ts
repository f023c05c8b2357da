/** Which files of a library are listed, what is told of a track, and how files that came together are clips. */
import { describe, expect, it } from 'vitest';
import { listed, tagsOf } from '../src/library/choose-files';
import { figuresOf, placeText } from '../src/report/figures';
import { agoText } from '../src/shared/format';
import type { LibraryItem, SolvedFrame } from '../src/types';
import { groupFiles } from '../src/upload/group-files';

const file = (name: string, more: Partial<LibraryItem> = {}): LibraryItem =>
  ({
    hash: name,
    name,
    fileName: `${name}.png`,
    tags: [],
    frameCount: 1,
    probe: { width: 100, height: 50 },
    added: '2026-05-01 10:00:00',
    plateOf: [],
    shownBy: [],
    ...more,
  }) as never;
const plate = file('quay 2', { plateOf: [{ id: 1, name: 'tp_010' }], frameCount: 96, tags: ['night'] });
const shown = file('map', {
  shownBy: [{ screen: 4, name: 'chart tablet', shot: 2, shotName: 'tp_020' }],
  added: '2026-06-01 10:00:00',
  tags: ['night', 'map'],
});
const loose = file('quay 10', { probe: { width: 400, height: 300 } as never });
const all = [plate, shown, loose];
const ALL = { text: '', kind: 'all', tag: null, order: 'name' } as const;
const names = (wanted: Partial<Parameters<typeof listed>[1]>): string[] =>
  listed(all, { ...ALL, ...wanted }).map((m) => m.name);

describe('the library', () => {
  it('lists by name with numbers as numbers, by time, use, size and length', () => {
    expect(names({})).toEqual(['map', 'quay 2', 'quay 10']);
    expect(names({ order: 'added' })[0]).toBe('map');
    expect(names({ order: 'uses' })[2]).toBe('quay 10');
    expect(names({ order: 'size' })[0]).toBe('quay 10');
    expect(names({ order: 'frames' })[0]).toBe('quay 2');
  });
  it('finds by every typed word: of names, files, tags, shots and Screens', () => {
    expect(names({ text: 'Chart tp_02' })).toEqual(['map']);
    expect(names({ text: 'quay 10.png' })).toEqual(['quay 10']);
    expect(names({ text: 'quay lighthouse' })).toEqual([]);
  });
  it('tells plates, fills and what nothing uses apart, and shows what has a tag', () => {
    expect(names({ kind: 'plate' })).toEqual(['quay 2']);
    expect(names({ kind: 'fill' })).toEqual(['map', 'quay 10']);
    expect(names({ kind: 'unused' })).toEqual(['quay 10']);
    expect(names({ tag: 'night' })).toEqual(['map', 'quay 2']);
    expect(tagsOf(all)).toEqual(['night', 'map']);
  });
});

describe('a report', () => {
  const frame = (n: number, trust: number, sigma = 0.2): SolvedFrame =>
    ({ frame: n, trust, sigma: [sigma, sigma, sigma, sigma] }) as never;
  it('tells medians in px at 1920 wide, and names weak stretches, the weakest first', () => {
    const { frames, told, worst } = figuresOf({
      frames: [frame(0, 1), frame(1, 0.4), frame(3, 0.1), frame(4, 0.3), frame(5, 0.9)],
      ranking: null,
      scale: 2,
    });
    expect(frames).toBe(5);
    expect(Object.fromEntries(told.map((t) => [t.what, t.value]))).toMatchObject({
      'Weak frames': '3',
      'Median sigma': '0.40 px',
      Jitter: 'not measured',
    });
    expect(worst.map(placeText)).toEqual(['frames 3 to 4', 'frame 1']);
    expect(worst[0]!.why).toBe('trust 0.10');
  });
  it('names a frame once, for what slips there before what is not sure of itself, and no slip that nobody sees', () => {
    const trouble = (n: number, size: number) => ({ frame: n, corner: 0, kind: 'pop' as const, size });
    const ranking = { troubles: [trouble(1, 3), trouble(2, 0.4)], drift: [], jitter: 0.1, told: 0.5 };
    const { worst } = figuresOf({ frames: [frame(1, 0.2), frame(2, 1)], ranking: ranking as never, scale: 1 });
    expect(worst).toEqual([{ from: 1, to: 1, why: 'pop of 3.00 px' }]);
  });
  it('of nothing says nothing', () => {
    expect(figuresOf({ frames: [], ranking: null, scale: 1 })).toMatchObject({ frames: 0, worst: [] });
  });
});

describe('how long ago', () => {
  const now = Date.parse('2026-06-02T12:00:00Z');
  it.each([
    ['2026-06-02T11:59:40Z', 'just now'],
    ['2026-06-02T11:57:10Z', '2 minutes ago'],
    ['2026-06-02T09:00:00Z', '3 hours ago'],
    ['2026-06-01T11:00:00Z', 'yesterday'],
  ])('%s is %s', (moment, told) => expect(agoText(moment, now)).toBe(told));
});

describe('files of a folder', () => {
  const at = (path: string): File => Object.assign(new File(['x'], path.split('/').at(-1)!), { relativePath: path });
  it('of one name in two folders are two sequences; what a system keeps for itself is left out', () => {
    const groups = groupFiles(['a/f.2.png', 'a/f.1.png', 'b/f.1.png', 'b/f.2.png', 'b/.DS_Store', 'clip.mp4'].map(at));
    expect(groups.map((g) => g.map((f) => f.name))).toEqual([
      ['clip.mp4'],
      ['f.1.png', 'f.2.png'],
      ['f.1.png', 'f.2.png'],
    ]);
  });
});
