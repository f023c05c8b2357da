import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { useShot } from '../src/stores/shot';
import { usePlayhead } from '../src/stores/playhead';
import type { Recipe } from '../src/types';
import { rulingLines } from '../src/viewer/ruling';
import { bytesText, rateText, timecodeOf } from '../src/shared/format';

const recipe = (name: string): Recipe => ({
  format: 'yarlop-screen',
  version: 1,
  name,
  referenceFrame: 0,
  pin: [
    [0, 0],
    [10, 0],
    [10, 10],
    [0, 10],
  ],
});
const answers: { status: number; body: unknown }[] = [];
const asked: { method: string; path: string; body: { revision: number; recipe: Recipe } }[] = [];
const memory = new Map<string, string>();

beforeEach(() => {
  vi.useFakeTimers();
  setActivePinia(createPinia());
  answers.length = asked.length = 0;
  memory.clear();
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => memory.get(k) ?? null,
    setItem: (k: string, v: string) => memory.set(k, v),
    removeItem: (k: string) => memory.delete(k),
  });
  vi.stubGlobal('fetch', async (path: string, init: { method: string; body?: string }) => {
    asked.push({ method: init.method, path, body: JSON.parse(init.body ?? 'null') as never });
    const a = answers.shift();
    if (!a) throw new TypeError('no network');
    return { ok: a.status < 300, status: a.status, json: async () => a.body };
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function opened(): Promise<ReturnType<typeof useShot>> {
  const store = useShot();
  answers.push({ status: 200, body: { id: 1, screens: [{ id: 7, shotId: 1, revision: 3, recipe: recipe('a') }] } });
  await store.open(1);
  return store;
}

describe('edits of a Screen', () => {
  it('are saved whole, a moment later, with the revision that they started from', async () => {
    const store = await opened();
    store.edit('Rename Screen', recipe('b'));
    expect(store.state).toBe('saving');
    expect(JSON.parse(memory.get('yarlop.unsaved.7')!)).toMatchObject({ revision: 3, recipe: { name: 'b' } });
    answers.push({ status: 200, body: { revision: 4 } });
    await vi.advanceTimersByTimeAsync(500);
    expect(asked.at(-1)).toMatchObject({
      method: 'PUT',
      path: '/api/screens/7',
      body: { revision: 3, recipe: { name: 'b' } },
    });
    expect(store.state).toBe('saved');
    expect(store.screens[0]!.revision).toBe(4);
    expect(memory.has('yarlop.unsaved.7')).toBe(false);
  });
  it('are told to the bench a few times a second while they are made on the picture, and at once when they are made', async () => {
    const store = await opened();
    // A name that was told a moment before the drag began is told on for as long.
    await vi.advanceTimersByTimeAsync(500);
    const told: (string | undefined)[] = [];
    for (let i = 0; i < 40; i++) {
      store.preview(7, recipe(`drag ${i}`));
      await vi.advanceTimersByTimeAsync(10);
      told.push(store.told?.recipe.name);
    }
    expect(new Set(told).size).toBeGreaterThanOrEqual(3);
    expect(new Set(told).size).toBeLessThanOrEqual(5);
    expect(store.chosen?.recipe.name).toBe('drag 39');
    await vi.advanceTimersByTimeAsync(200);
    expect(store.told?.recipe.name).toBe('drag 39');
    store.preview(7, recipe('drag 40'));
    store.edit('Move fill', recipe('put down'), recipe('a'));
    expect(store.told?.recipe.name).toBe('put down');
    store.preview(7, recipe('by a slider'), true);
    expect(store.told?.recipe.name).toBe('by a slider');
  });
  it('are undone and redone step by step; a run of nudges is one step', async () => {
    const store = await opened();
    const nudged = (x: number): Recipe => ({
      ...recipe('a'),
      pin: [
        [x, 0],
        [10, 0],
        [10, 10],
        [0, 10],
      ],
    });
    for (const x of [1, 2, 3]) store.edit('Nudge corner TL', nudged(x));
    store.edit('Rename Screen', recipe('b'));
    expect(store.undoStack.map((e) => e.name)).toEqual(['Nudge corner TL', 'Rename Screen']);
    store.undo();
    expect(store.chosen!.recipe.pin[0]![0]).toBe(3);
    store.undo();
    expect(store.chosen!.recipe).toEqual(recipe('a'));
    store.redo();
    expect(store.chosen!.recipe.pin[0]![0]).toBe(3);
  });
  it('are not sent while they are being dragged, and a drag that ends on what was shown last is saved', async () => {
    const store = await opened();
    const shown = recipe('shown');
    store.edit('Rename Screen', recipe('b'));
    store.preview(7, shown);
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked.filter((a) => a.method === 'PUT')).toHaveLength(0);
    store.edit('Move corner BR', shown, recipe('b'));
    answers.push({ status: 200, body: { revision: 4 } });
    const saving = store.save();
    store.edit('Move corner BR', store.chosen!.recipe, recipe('b'));
    await saving;
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked.filter((a) => a.method === 'PUT')).toHaveLength(1);
    expect(asked.at(-1)).toMatchObject({ body: { recipe: { name: 'shown' } } });
    expect(store.state).toBe('saved');
  });
  it('wait while the server is away, and are tried again', async () => {
    const store = await opened();
    store.edit('Rename Screen', recipe('b'));
    await vi.advanceTimersByTimeAsync(400);
    expect(store.state).toBe('unsaved');
    expect(memory.has('yarlop.unsaved.7')).toBe(true);
    answers.push({ status: 200, body: { revision: 4 } });
    await vi.advanceTimersByTimeAsync(2100);
    expect(store.state).toBe('saved');
  });
  it('left unsaved by a crash are found again, unless somebody saved since', async () => {
    memory.set('yarlop.unsaved.7', JSON.stringify({ revision: 3, recipe: recipe('left') }));
    expect((await opened()).chosen!.recipe.name).toBe('left');
    setActivePinia(createPinia());
    memory.set('yarlop.unsaved.7', JSON.stringify({ revision: 2, recipe: recipe('old') }));
    expect((await opened()).chosen!.recipe.name).toBe('a');
  });
  it('that clash stop the saving until the person decides', async () => {
    const store = await opened();
    store.edit('Rename Screen', recipe('mine'));
    answers.push({ status: 409, body: { code: 'stale', message: 'saved elsewhere' } });
    await vi.advanceTimersByTimeAsync(400);
    expect(store.state).toBe('clash');
    answers.push(
      { status: 200, body: { id: 7, shotId: 1, revision: 9, recipe: recipe('theirs') } },
      { status: 200, body: { revision: 10 } },
    );
    await store.resolveClash(true);
    expect(asked.at(-1)!.body).toMatchObject({ revision: 9, recipe: { name: 'mine' } });
    expect(store.state).toBe('saved');
  });
});

describe('the playhead', () => {
  it('stays inside the clip, goes round the working range, and plays on outside it to the end', () => {
    const p = usePlayhead();
    p.setup(20, 24);
    [p.from, p.to] = [5, 9];
    p.go(99);
    expect(p.frame).toBe(19);
    expect(p.next(9)).toBe(5);
    expect(p.next(12)).toBe(13);
    expect(p.next(19)).toBe(0);
    p.loop = false;
    expect(p.next(9)).toBeNull();
  });
});

describe('what is shown', () => {
  it('the ruling stays in front of the camera on a steep pin', () => {
    const lines = rulingLines([
      [100, 100],
      [300, 180],
      [300, 260],
      [100, 400],
    ]);
    expect(lines.length).toBeGreaterThan(15);
    expect(lines.flat(2).every((v) => Number.isFinite(v) && Math.abs(v) < 1e5)).toBe(true);
  });
  it('timecode by SMPTE ST 12-1: at 29.97 drop-frame an hour is 107,892 frames', () => {
    const at = (frame: number, rate: [number, number], timecode: string): string | null =>
      timecodeOf(frame, { frameRate: rate, timecode } as never);
    expect(at(107892, [30000, 1001], '00:00:00;00')).toBe('01:00:00;00');
    expect(at(1800, [30000, 1001], '00:00:00;00')).toBe('00:01:00;02');
    expect(at(24, [24, 1], '01:00:10:05')).toBe('01:00:11:05');
    expect(at(1, [17, 1], '00:00:00:00')).toBeNull();
  });
  it('sizes and rates as people write them', () => {
    expect([
      rateText([24, 1]),
      rateText([24000, 1001]),
      bytesText(900),
      bytesText(2048),
      bytesText(3 * 1024 ** 2),
    ]).toEqual(['24', '23.976', '900 bytes', '2.0 kB', '3.0 MB']);
  });
});
