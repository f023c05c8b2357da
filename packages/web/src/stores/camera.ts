/** The camera of the shot's whole scene: what is known of it, its run, its points, and which of those are chosen. */
import { defineStore } from 'pinia';
import type { Ref } from 'vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useDebounceFn, useStorage } from '@vueuse/core';
import type { FileView } from '@yarlop/core/camera/file-views';
import { viewsOfFile } from '@yarlop/core/camera/file-views';
import type { Stand } from '@yarlop/core/camera/proof-marks';
import { standOn } from '@yarlop/core/camera/proof-marks';
import type { SeenPoint } from '@yarlop/core/camera/surface';
import { pointsOn } from '@yarlop/core/camera/surface';
import { flipped } from '@yarlop/core/camera/view-model';
import { matrixOf } from '@yarlop/core/geometry/quaternion';
import type { DeviceShape } from '@yarlop/core/pin/proportions';
import { median, spread } from '@yarlop/core/statistics';
import { api, sentence } from '../api';
import type { CameraSettings, CameraView, Job } from '../types';
import { useLive } from './live';
import { usePlayhead } from './playhead';
import { useShot } from './shot';

/** Times the usual error from which a point is doubtful. By trial. */
const DOUBTFUL = 2.5;
/** Ms after the last change until what is known is saved. */
const SAVE_DELAY = 350;

/** Points as they are found while a run is on. */
interface FoundPoints {
  readonly frame: number;
  /** x and y of each, px */
  readonly places: readonly number[];
}

const NOTHING_SAID: CameraSettings = { kind: 'find', known: { as: 'nothing' }, leftOut: [], dropped: [] };

/** What is said of the camera before it is solved: saved by itself a moment after each change. */
function useSaid(problem: Ref<string>) {
  const shot = useShot();
  const settings = shallowRef<CameraSettings>(NOTHING_SAID);

  /** What moves by itself unless somebody says otherwise: outlines of what passes in front, and what is held in a hand. */
  function usual(): CameraSettings {
    const held = shot.screens.filter((s) => s.recipe.carried || ['phone', 'tablet'].includes(s.recipe.device ?? ''));
    return { ...NOTHING_SAID, leftOut: held.map((s) => s.id) };
  }

  /** how often something was said, and how much of that the server knows */
  let said = 0;
  let saved = 0;
  async function save(id: number, now: CameraSettings, count: number): Promise<void> {
    try {
      await api('PUT /shots/:id/camera', { id }, now);
      saved = Math.max(saved, count);
    } catch (e) {
      problem.value = sentence(e);
    }
  }
  /** One after the other: what was said last arrives last. */
  let sending = Promise.resolve();
  const saveSoon = useDebounceFn((id: number, now: CameraSettings, count: number) => {
    sending = sending.then(() => save(id, now, count));
  }, SAVE_DELAY);
  function say(part: Partial<CameraSettings>): void {
    settings.value = { ...settings.value, ...part };
    said++;
    void saveSoon(shot.shot!.id, settings.value, said);
  }

  /** To be asked before the server's answer is waited for: takes the answer unless the person has said more than it knows. */
  function taker(): (answered: CameraSettings | null) => void {
    const before = saved;
    return (answered) => {
      if (said === before) settings.value = answered ?? usual();
    };
  }
  /** Another shot: what was said of the one before is none of its. */
  function forget(): void {
    saved = said;
    settings.value = usual();
  }

  // What somebody outlines in front of a Screen moves by itself.
  watch(
    () => shot.screens,
    (now, before) => {
      const known = new Set(before.map((s) => s.id));
      const isSameShot = before.some((s) => s.shotId === shot.shot?.id);
      const drawn = now.filter((s) => s.recipe.carried && !known.has(s.id)).map((s) => s.id);
      if (isSameShot && drawn.length > 0) say({ leftOut: [...settings.value.leftOut, ...drawn] });
    },
  );
  return { settings, taker, forget, say };
}

/** The points of a solved camera, and which of them are chosen. */
function usePoints(solved: Readonly<Ref<CameraView['solved']>>) {
  const playhead = usePlayhead();
  const chosen = shallowRef<ReadonlySet<number>>(new Set());
  const views = computed((): ReadonlyMap<number, FileView> =>
    solved.value ? viewsOfFile(solved.value.file) : new Map(),
  );
  /** of points, px: beyond it one is doubtful */
  const doubtful = computed(() => {
    const errors = solved.value?.file.points.map((p) => p.error) ?? [];
    return errors.length > 0 ? DOUBTFUL * median(errors) : Infinity;
  });
  /** the points that the frame shown would show */
  const seen = computed((): readonly SeenPoint[] => {
    const view = views.value.get(playhead.frame);
    return view && solved.value ? pointsOn(solved.value.file, view) : [];
  });
  const worst = computed(() => (solved.value?.file.points ?? []).filter((p) => p.error > doubtful.value));
  function choose(ids: Iterable<number>, more: boolean): void {
    chosen.value = new Set([...(more ? chosen.value : []), ...ids]);
  }
  return { chosen, views, doubtful, seen, worst, choose };
}

/** Cones that stand in the scene at the most. By trial. */
const CONES = 10;
/** Of the usual distance of points: how high a cone is. By trial. */
const CONE_HEIGHT = 0.07;

/** Points from all over the scene: they are numbered as they were found. */
const fromAllOver = (ids: readonly number[]): number[] =>
  spread(
    [...ids].sort((a, b) => a - b),
    CONES,
  );

/** What stands in the scene for the eye to judge the camera by. */
function useProofMarks(
  solved: Readonly<Ref<CameraView['solved']>>,
  settings: Readonly<Ref<CameraSettings>>,
  chosen: Readonly<Ref<ReadonlySet<number>>>,
) {
  const cones = ref(false);
  const floor = ref(false);
  const ground = computed((): Stand | null => {
    const ids = settings.value.world?.ground;
    return solved.value && ids ? standOn(solved.value.file, ids) : null;
  });
  /** the ground, or as upright as the first frame's camera */
  const stand = computed((): Stand | null => {
    const first = solved.value?.file.frames[0];
    if (ground.value || !first) return ground.value;
    const m = matrixOf(first.rotation);
    const axis = (k: number): number[] => flipped([m[k]!, m[3 + k]!, m[6 + k]!]);
    return { at: [0, 0, 0], right: axis(0), up: axis(1), ahead: axis(2).map((v) => -v) };
  });
  const conePoints = computed((): readonly number[] => {
    if (chosen.value.size > 0) return fromAllOver([...chosen.value]);
    const told = settings.value.world?.ground;
    if (told) return fromAllOver(told);
    const all = solved.value?.file.points ?? [];
    const lasting = [...all].sort((a, b) => b.frames - a.frames).slice(0, all.length / 2);
    return fromAllOver(lasting.map((p) => p.id));
  });
  const coneHeight = computed(() => {
    const file = solved.value?.file;
    const eye = file?.frames[0]?.position;
    if (!file || !eye || file.points.length === 0) return CONE_HEIGHT;
    return CONE_HEIGHT * median(file.points.map((p) => Math.hypot(...p.position.map((v, k) => v - eye[k]!))));
  });
  return { cones, floor, ground, stand, conePoints, coneHeight };
}

export const useCamera = defineStore('camera', () => {
  const shot = useShot();
  const live = useLive();
  const problem = ref('');
  const solved = shallowRef<CameraView['solved']>(null);
  const found = shallowRef<FoundPoints | null>(null);
  /** points are seen on the picture */
  const shown = ref(useStorage('yarlop.camera-points', true));
  /** what a new Screen on a surface has the proportions of; '' for the surface's own */
  const surfaceShape = ref<DeviceShape['id'] | ''>('');
  const { settings, taker, forget, say } = useSaid(problem);
  const points = usePoints(solved);
  const marks = useProofMarks(solved, settings, points.chosen);
  let shotId: number | null = null;

  async function load(id: number): Promise<void> {
    if (id !== shotId) {
      points.choose([], false);
      forget();
    }
    shotId = id;
    const take = taker();
    const view = await api('GET /shots/:id/camera', { id });
    if (id !== shot.shot?.id) return;
    take(view.settings);
    solved.value = view.solved;
    found.value = null;
    problem.value = '';
  }

  const ofShot = (j: Job): boolean => j.kind === 'camera' && j.shotId === shot.shot?.id;
  const job = computed(() => live.running.find(ofShot));
  const last = computed(() => [...live.jobs.values()].filter(ofShot).at(-1));
  async function solve(): Promise<void> {
    problem.value = '';
    await shot.save();
    try {
      // What was deleted since is left out by itself.
      const leftOut = settings.value.leftOut.filter((id) => shot.screens.some((s) => s.id === id));
      settings.value = { ...settings.value, leftOut };
      const started = await api('POST /shots/:id/camera', { id: shot.shot!.id }, settings.value);
      live.jobs.set(started.id, started);
    } catch (e) {
      problem.value = sentence(e);
    }
  }

  function hear(points: FoundPoints & { readonly shotId: number }): void {
    if (points.shotId === shot.shot?.id) found.value = points;
  }
  const run = { job, last, load, say, solve, hear };
  return { settings, solved, found, shown, problem, surfaceShape, ...run, ...points, ...marks };
});
