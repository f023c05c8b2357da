import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { useCamera } from '../src/stores/camera';
import { useShot } from '../src/stores/shot';
import type { CameraSettings } from '../src/types';

const SETTINGS: CameraSettings = { kind: 'find', known: { as: 'nothing' }, leftOut: [], dropped: [] };
const LOADED: CameraSettings = { ...SETTINGS, kind: 'tripod' };
/** What the server is asked, and how each is answered. */
const asked: { method: string; path: string; body: CameraSettings | null; answer: (body: unknown) => void }[] = [];

beforeEach(() => {
  vi.useFakeTimers();
  setActivePinia(createPinia());
  asked.length = 0;
  vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => {}, removeItem: () => {} });
  vi.stubGlobal('fetch', (path: string, init: { method: string; body?: string }) => {
    const sent = JSON.parse(init.body ?? 'null') as CameraSettings | null;
    return new Promise((resolve) => {
      const answer = (body: unknown): void => resolve({ ok: true, status: 200, json: async () => body });
      asked.push({ method: init.method, path, body: sent, answer });
    });
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function openShot(id: number): Promise<void> {
  const opened = useShot().open(id);
  asked.at(-1)!.answer({ id, screens: [] });
  await opened;
}

/** The camera of shot 1, of which nothing was said before. */
async function openedWithNothingSaid(): Promise<ReturnType<typeof useCamera>> {
  await openShot(1);
  const camera = useCamera();
  const loading = camera.load(1);
  asked.at(-1)!.answer({ settings: null, solved: null });
  await loading;
  return camera;
}

it('keeps what is said while the answer is on its way, and until it is saved', async () => {
  await openShot(1);
  const camera = useCamera();
  const loading = camera.load(1);
  camera.say({ known: { as: 'mm', focal: 35, sensor: 36 } });
  asked.at(-1)!.answer({ settings: LOADED, solved: null });
  await loading;
  expect(camera.settings).toEqual({ ...SETTINGS, known: { as: 'mm', focal: 35, sensor: 36 } });
  const again = camera.load(1);
  asked.at(-1)!.answer({ settings: LOADED, solved: null });
  await again;
  expect(camera.settings.known.as).toBe('mm');
  await vi.advanceTimersByTimeAsync(400);
  expect(asked.at(-1)).toMatchObject({ method: 'PUT', path: '/api/shots/1/camera', body: { known: { as: 'mm' } } });
  asked.at(-1)!.answer({});
  await vi.advanceTimersByTimeAsync(0);
  const saved = camera.load(1);
  asked.at(-1)!.answer({ settings: LOADED, solved: null });
  await saved;
  expect(camera.settings).toEqual(LOADED);
});

it('saves what was said of a shot under that shot, though another is open by then', async () => {
  const camera = await openedWithNothingSaid();
  camera.say({ kind: 'moving' });
  await openShot(2);
  const second = camera.load(2);
  asked.at(-1)!.answer({ settings: LOADED, solved: null });
  await second;
  expect(camera.settings).toEqual(LOADED);
  await vi.advanceTimersByTimeAsync(400);
  expect(asked.at(-1)).toMatchObject({ method: 'PUT', path: '/api/shots/1/camera', body: { kind: 'moving' } });
});

it('sends what was said last after what was said before it, however long that takes', async () => {
  const camera = await openedWithNothingSaid();
  const saves = (): (string | undefined)[] => asked.filter((a) => a.method === 'PUT').map((a) => a.body?.kind);
  camera.say({ kind: 'moving' });
  await vi.advanceTimersByTimeAsync(400);
  camera.say({ kind: 'tripod' });
  await vi.advanceTimersByTimeAsync(400);
  expect(saves()).toEqual(['moving']);
  asked.at(-1)!.answer({});
  await vi.advanceTimersByTimeAsync(0);
  expect(saves()).toEqual(['moving', 'tripod']);
});
