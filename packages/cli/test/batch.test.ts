import { mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { TrackFile } from '../../core/src/formats/track-json';
import { quadToQuad } from '../../core/src/geometry/homography';
import type { Quad } from '../../core/src/geometry/quad';
import { mapQuad } from '../../core/src/geometry/quad';
import { grownPin } from '../../core/src/pin/inset';
import { FRAMES, PIN, Quay, move, recipe } from './builders/quay';

let quay: Quay;
const at = (name: string): string => quay.at(name);
const json = async <T>(name: string): Promise<T> => JSON.parse(await readFile(at(name), 'utf8')) as T;

/** The exact track with a corner that drifts away behind the reference frame. */
async function writeSpoilt(name: string, px: number): Promise<void> {
  const t = await json<TrackFile>('track.json');
  const frames = t.screens[0]!.frames.map((f) => {
    const by = (px * Math.max(0, f.frame - 10)) / (FRAMES - 1 - 10);
    const corners = mapQuad(move(f.frame), PIN).map((p, i) => (i === 1 ? [p[0] + by, p[1]] : p)) as unknown as Quad;
    return { ...f, corners, homography: quadToQuad(PIN, corners) };
  });
  await writeFile(at(name), JSON.stringify({ ...t, screens: [{ ...t.screens[0]!, frames }] }));
}

/** The largest corner error of a track, px. */
async function worstOf(name: string): Promise<number> {
  const { frames } = (await json<TrackFile>(name)).screens[0]!;
  const errors = frames.flatMap((f) =>
    mapQuad(move(f.frame), PIN).map((p, i) => Math.hypot(p[0] - f.corners[i]![0], p[1] - f.corners[i]![1])),
  );
  return Math.max(...errors);
}

beforeAll(async () => {
  quay = await Quay.open(grownPin(PIN, 10));
  const followed = ['follow', at('plate.mp4'), '--screen', at('screen.json'), '--out', at('track.json')];
  expect((await quay.yarlop(followed)).code).toBe(0);
});
afterAll(() => quay.close());

describe('yarlop match', () => {
  const match = (...more: string[]) =>
    quay.yarlop(['match', at('plate.mp4'), '--track', at('track.json'), '--screen', at('screen.json'), ...more]);

  it('writes the recipe with what the plate tells, prints each proposal, and takes some of them when asked', async () => {
    const all = await match('--out', at('matched.json'), '--fill', at('fill.png'));
    expect(all).toMatchObject({ code: 0, err: '' });
    expect(all.out).toMatch(/^quay phone:\n {2}levels: /);
    const { dress, ...rest } = await json<{ dress: Record<string, unknown> }>('matched.json');
    expect(rest).toEqual(recipe);
    expect(Object.keys(dress)).toContain('softness');
    expect((await quay.yarlop(['check', at('matched.json')])).code).toBe(0);

    const some = await match('--out', at('some.json'), '--only', 'levels,softness', '--json');
    const told = JSON.parse(some.out) as { screens: { proposals: { part: string; taken: boolean }[] }[] };
    expect(Object.keys((await json<{ dress: object }>('some.json')).dress).sort()).toEqual(['levels', 'softness']);
    expect(told.screens[0]!.proposals.filter((p) => p.taken).map((p) => p.part)).toEqual(['levels', 'softness']);
  });

  it('refuses parts that there are not, and fills that are missing', async () => {
    expect(await match('--out', at('x.json'), '--only', 'glow')).toMatchObject({
      code: 2,
      err: expect.stringContaining('"glow"'),
    });
    expect(await match('--out', at('x.json'), '--fill', at('no.png'))).toMatchObject({
      code: 2,
      err: expect.stringContaining('does not exist'),
    });
    await expect(stat(at('x.json'))).rejects.toThrow();
  });
});

describe('yarlop repair', () => {
  const repair = (...more: string[]) =>
    quay.yarlop(['repair', at('plate.mp4'), '--track', at('spoilt.json'), '--screen', at('screen.json'), ...more]);

  it('plans few touch-ups that bring a drift down, writes recipe and track, and leaves both alone with --plan', async () => {
    await writeSpoilt('spoilt.json', 3);
    const plan = await repair('--plan', '--json');
    expect(plan.code).toBe(0);
    const [told] = (JSON.parse(plan.out) as { screens: { touchUps: { frame: number }[]; frames: number[] }[] }).screens;
    expect(told!.frames).toHaveLength(FRAMES);
    expect(told!.touchUps.length).toBeGreaterThan(0);

    const made = await repair('--out', at('repaired.json'), '--out-track', at('repaired-track.json'), '--under', '2');
    expect(made.code).toBe(0);
    expect(made.out).toMatch(/brings? the worst from \d+\.\d+ to \d+\.\d+ px/);
    expect((await json<{ touchUps: unknown[] }>('repaired.json')).touchUps.length).toBeGreaterThan(0);
    expect(await worstOf('repaired-track.json')).toBeLessThan(0.5 * (await worstOf('spoilt.json')));

    // What was repaired is not repaired again: the corrections that it holds are taken into account.
    const again = await quay.yarlop([
      ...['repair', at('plate.mp4'), '--track', at('repaired-track.json'), '--screen', at('repaired.json')],
      ...['--plan', '--under', '3'],
    ]);
    expect(again.out).toContain('nothing to repair');
  });

  it('asks where to write, and refuses a pin that the track was not made with', async () => {
    expect(await repair()).toMatchObject({ code: 2, err: expect.stringContaining('--out') });
    await writeFile(at('other.json'), JSON.stringify({ ...recipe, pin: grownPin(PIN, 20) }));
    const other = ['repair', at('plate.mp4'), '--track', at('track.json'), '--screen', at('other.json'), '--plan'];
    expect(await quay.yarlop(other)).toMatchObject({ code: 2, err: expect.stringContaining('follow it again') });
  });
});

const PROJECT = `# a shot from its plate to what is delivered
format: yarlop-project
version: 1
name: quay
plate: plate.mp4
screens: [screen.json]
from: 8
to: 13
fills: fill.png
match: [levels, softness]
repair: { under: 4 }
out: made
deliver:
  - as: csv
    origin: centre
  - as: png
  - as: mov
    element: true
    file: "{shot}-element.mov"
`;

describe('yarlop project', () => {
  it('goes from the plate to every delivery, and does nothing twice', async () => {
    await writeFile(at('quay.yaml'), PROJECT);
    const list = await quay.yarlop(['project', at('quay.yaml'), '--list']);
    expect(list.out.trim().split('\n')).toEqual([
      'quay: follow',
      'quay: repair quay phone',
      'quay: csv',
      'quay, fill: match quay phone',
      'quay, fill: png',
      'quay, fill: element as mov',
    ]);
    const first = await quay.yarlop(['project', at('quay.yaml')]);
    expect(first.code, first.err).toBe(0);
    expect(await readFile(at('made/quay/quay.csv'), 'utf8')).toContain('centre');
    for (const file of ['made/quay/quay.track.json', 'made/quay/fill/png/quay.0013.png', 'made/quay-element.mov'])
      expect((await stat(at(file))).size).toBeGreaterThan(0);

    const before = await stat(at('made/quay/quay.track.json'));
    const second = await quay.yarlop(['project', at('quay.yaml')]);
    expect(second.err.match(/is there/g)).toHaveLength(6);
    expect((await stat(at('made/quay/quay.track.json'))).mtimeMs).toBe(before.mtimeMs);

    // Other settings make what rests on them anew, and nothing else.
    await writeFile(at('quay.yaml'), PROJECT.replace('origin: centre', 'origin: bottom-left'));
    const third = await quay.yarlop(['project', at('quay.yaml')]);
    expect(third.err.match(/is there/g)).toHaveLength(5);
    expect(third.err).toContain('quay: csv: done');
  });

  it('goes on where it was cut off', async () => {
    await writeFile(at('cut.yaml'), PROJECT.replace('out: made', 'out: cut'));
    const cut = await quay.yarlop(['project', at('cut.yaml')], (child, said) => {
      if (said.includes('quay: csv: done')) child.kill('SIGINT');
    });
    expect(cut.code).toBe(130);
    const on = await quay.yarlop(['project', at('cut.yaml')]);
    expect(on.code, on.err).toBe(0);
    expect(on.err).toContain('quay: follow: is there');
    expect(on.err).toContain('element as mov: done');
  });

  it('says what is wrong and where, before anything is done', async () => {
    const tried = async (text: string) => {
      await writeFile(at('bad.yaml'), text);
      return quay.yarlop(['project', at('bad.yaml')]);
    };
    for (const [from, to, said] of [
      ['plate: plate.mp4', 'plate: no.mp4', 'no.mp4 does not exist'],
      ['as: csv', 'as: xls', 'the format "xls"'],
      ['fills: fill.png\n', '', 'no fill is named'],
      ['fills: fill.png', 'fills: { other: fill.png }', 'has "quay phone"'],
      ['{shot}-element.mov', '../../out.mov', 'leaves the folder'],
      ['repair: { under: 4 }', 'repair: { over: 4 }', 'repair lacks the member "under"'],
      ['format: yarlop-project', 'format: [', 'neither YAML nor JSON'],
    ] as const) {
      const { code, err } = await tried(PROJECT.replace(from, to));
      expect(err).toContain(said);
      expect(code).toBe(2);
    }
  });
});

describe('yarlop batch', () => {
  it('makes shots by fills by formats; a shot that fails stops no other', async () => {
    await mkdir(at('more'), { recursive: true });
    await writeFile(at('more/broken.mp4'), 'no clip');
    await writeFile(
      at('batch.json'),
      JSON.stringify({
        format: 'yarlop-batch',
        version: 1,
        out: 'batch',
        shots: [
          { name: 'broken', plate: 'more/broken.mp4', screens: ['screen.json'] },
          { name: 'quay', plate: 'plate.mp4', screens: ['screen.json'], from: 8, to: 13 },
        ],
        fills: [
          { name: 'first', by: { 'quay phone': 'fill.png' } },
          { name: 'second', by: 'fill.png' },
        ],
        deliver: [{ as: 'json' }, { as: 'png' }],
      }),
    );
    const { code, err } = await quay.yarlop(['batch', at('batch.json')]);
    expect(code).toBe(1);
    expect(err).toMatch(/broken: follow: failed: .*broken\.mp4/);
    expect(err.match(/left out, since what it needs failed/g)).toHaveLength(3);
    for (const fill of ['first', 'second'])
      expect((await stat(at(`batch/quay/${fill}/png/quay.0013.png`))).size).toBeGreaterThan(0);
    expect((await json<{ screens: { frames: unknown[] }[] }>('batch/quay/quay.json')).screens[0]!.frames).toHaveLength(
      6,
    );
  });

  it('refuses two outputs of one name', async () => {
    await writeFile(at('twice.yml'), PROJECT.replace('origin: centre', 'file: a.csv\n  - as: tsv\n    file: a.csv'));
    expect(await quay.yarlop(['project', at('twice.yml')])).toMatchObject({
      code: 2,
      err: expect.stringContaining('written twice'),
    });
    expect(await quay.yarlop(['check', at('twice.yml')])).toMatchObject({
      code: 0,
      out: 'twice.yml is a valid project file.\n',
    });
  });
});
