/**
 * The shot at hand: its Screens' recipes with undo, saved whole by themselves a moment after each edit. An edit that
 * cannot be saved stays here, is kept in the browser's storage, and is tried again; a clash is shown, never
 * overwritten.
 */
import { defineStore } from 'pinia';
import { refThrottled } from '@vueuse/core';
import { computed, ref, shallowRef } from 'vue';
import { ApiFailure, api, sentence } from '../api';
import type { Recipe, Screen, SetColour, Shot } from '../types';

interface Edit {
  readonly name: string;
  readonly screen: number;
  readonly before: Recipe;
  readonly after: Recipe;
}

/** `unsaved`: it was tried and failed, and is tried again. */
type SaveState = 'saved' | 'saving' | 'unsaved' | 'clash' | 'refused';

/** ms after an edit until it is saved: the next one often follows at once. */
const SAVE_DELAY = 350;
/** ms until a save is tried again. */
const RETRY = 2000;
/** ms between what the bench is told of a drag: the picture is to have the page's time. By trial. */
const TELL_DELAY = 160;
const keep = (id: number): string => `yarlop.unsaved.${id}`;

export const useShot = defineStore('shot', () => {
  const shot = shallowRef<Shot | null>(null);
  /** replaced, never changed in place, as are recipes: so nothing in them needs to be watched by itself */
  const screens = shallowRef<readonly Screen[]>([]);
  const chosenId = ref<number | null>(null);
  const state = ref<SaveState>('saved');
  const problem = ref('');
  const undoStack = shallowRef<readonly Edit[]>([]);
  const redoStack = shallowRef<readonly Edit[]>([]);
  /** the Screen whose recipe is being dragged about, not yet edited */
  const previewing = ref<number | null>(null);
  const dirty = new Set<number>();
  const steps = new Map<number, string>();
  let timer: ReturnType<typeof setTimeout> | undefined;
  let saving: Promise<void> = Promise.resolve();

  const chosen = computed(() => screens.value.find((s) => s.id === chosenId.value) ?? null);

  const calm = refThrottled(chosen, TELL_DELAY, true, true);
  /** whether what is dragged about is a control of the bench itself */
  const ofBench = ref(false);
  /** the chosen Screen as the bench shows it: all at once, but what is dragged about on the picture only a few times a second */
  const told = computed(() => {
    const now = chosen.value;
    const atOnce = previewing.value === null || ofBench.value || calm.value?.id !== now?.id;
    return atOnce ? now : calm.value;
  });

  /** those that carry content: all but outlines of what passes in front */
  const proper = computed(() => screens.value.filter((s) => !s.recipe.carried));

  const corrections = (r: Recipe): string => JSON.stringify([r.touchUps, r.settles]);
  /**
   * A Screen's recipe as it was before the newest step that changed its corrections; null where none of this visit did.
   */
  function beforeLastRepair(id: number): Recipe | null {
    return (
      undoStack.value.findLast((e) => e.screen === id && corrections(e.before) !== corrections(e.after))?.before ?? null
    );
  }

  async function open(id: number): Promise<void> {
    const { screens: list, ...rest } = await api('GET /shots/:id', { id });
    const other = shot.value?.id !== id;
    shot.value = rest;
    screens.value = list.map((s) => {
      const left = localStorage.getItem(keep(s.id));
      if (!left) return s;
      const { revision, recipe } = JSON.parse(left) as { revision: number; recipe: Recipe };
      if (revision !== s.revision) {
        localStorage.removeItem(keep(s.id));
        return s;
      }
      dirty.add(s.id);
      return { ...s, recipe };
    });
    if (other || !chosen.value) chosenId.value = list[0]?.id ?? null;
    if (other) {
      undoStack.value = [];
      redoStack.value = [];
    }
    if (dirty.size > 0) schedule(0);
  }

  /** @returns the Screen as it was */
  function change(id: number, part: Partial<Screen>): Screen | undefined {
    const before = screens.value.find((s) => s.id === id);
    if (before) screens.value = screens.value.map((s) => (s === before ? { ...s, ...part } : s));
    return before;
  }

  function put(id: number, recipe: Recipe): void {
    const s = change(id, { recipe });
    if (!s) return;
    previewing.value = null;
    localStorage.setItem(keep(id), JSON.stringify({ revision: s.revision, recipe }));
    dirty.add(id);
    if (state.value === 'clash') return;
    if (state.value !== 'unsaved') state.value = 'saving';
    schedule(SAVE_DELAY);
  }

  /**
   * Shows an edit while it is being made (a drag); nothing is saved or remembered until {@link edit}.
   * @param isOfBench it is made on the bench, which follows it at once
   */
  function preview(id: number, recipe: Recipe, isOfBench = false): void {
    change(id, { recipe });
    previewing.value = id;
    ofBench.value = isOfBench;
  }

  /** One step of undo, of the chosen Screen or another one. */
  function edit(name: string, after: Recipe, before = chosen.value?.recipe, id = chosenId.value): void {
    if (id === null || !before) return;
    const last = undoStack.value.at(-1);
    const nudges = name.startsWith('Nudge') && last?.name === name && last.screen === id;
    undoStack.value = nudges
      ? [...undoStack.value.slice(0, -1), { ...last, after }]
      : [...undoStack.value, { name, screen: id, before, after }];
    redoStack.value = [];
    steps.set(id, name);
    put(id, after);
  }

  function undo(): void {
    const e = undoStack.value.at(-1);
    if (!e) return;
    undoStack.value = undoStack.value.slice(0, -1);
    redoStack.value = [...redoStack.value, e];
    steps.set(e.screen, `Undo: ${e.name}`);
    put(e.screen, e.before);
  }

  function redo(): void {
    const e = redoStack.value.at(-1);
    if (!e) return;
    redoStack.value = redoStack.value.slice(0, -1);
    undoStack.value = [...undoStack.value, e];
    steps.set(e.screen, e.name);
    put(e.screen, e.after);
  }

  function schedule(ms: number): void {
    clearTimeout(timer);
    timer = setTimeout(() => void save(), ms);
  }

  /** Saves every edited recipe now. */
  function save(): Promise<void> {
    clearTimeout(timer);
    saving = saving.then(async () => {
      for (const id of [...dirty]) {
        const s = screens.value.find((x) => x.id === id);
        // What is being dragged is no edit yet; it comes with the drag's end.
        if (!s || previewing.value === id) continue;
        try {
          const sent = s.recipe;
          const row = await api(
            'PUT /screens/:id',
            { id },
            {
              revision: s.revision,
              recipe: sent,
              ...(steps.has(id) ? { step: steps.get(id) } : {}),
            },
          );
          const now = change(id, { revision: row.revision }) ?? s;
          if (now.recipe === sent) {
            dirty.delete(id);
            localStorage.removeItem(keep(id));
          } else localStorage.setItem(keep(id), JSON.stringify({ revision: row.revision, recipe: now.recipe }));
        } catch (e) {
          const failure = e instanceof ApiFailure ? e : null;
          const status = failure?.status ?? 0;
          problem.value = sentence(e);
          if (status === 409) state.value = 'clash';
          // Somebody who was signed out signs in again, and it is saved then.
          else if (status >= 400 && status < 500 && !failure?.isSignedOut) state.value = 'refused';
          else state.value = 'unsaved';
          if (state.value === 'refused') dirty.delete(id);
          if (state.value === 'unsaved') schedule(RETRY);
          return;
        }
      }
      if (dirty.size > 0) schedule(SAVE_DELAY);
      else if (state.value !== 'clash' && state.value !== 'refused') state.value = 'saved';
    });
    return saving;
  }

  /** After a clash: take what the other window saved, or lay these edits over it as the next revision. */
  async function resolveClash(mine: boolean): Promise<void> {
    for (const id of [...dirty]) {
      const theirs = await api('GET /screens/:id', { id });
      change(id, mine ? { revision: theirs.revision } : theirs);
      if (!mine) {
        dirty.delete(id);
        localStorage.removeItem(keep(id));
      }
    }
    state.value = mine ? 'unsaved' : 'saved';
    problem.value = '';
    if (mine) await save();
  }

  async function addScreen(recipe: Recipe): Promise<void> {
    const row = await api('POST /shots/:id/screens', { id: shot.value!.id }, recipe);
    screens.value = [...screens.value, row];
    chosenId.value = row.id;
  }

  /** A Screen as the server has saved it. */
  function take(row: Screen): void {
    change(row.id, row);
  }

  async function removeScreen(id: number): Promise<void> {
    await api('DELETE /screens/:id', { id });
    dirty.delete(id);
    localStorage.removeItem(keep(id));
    screens.value = screens.value.filter((s) => s.id !== id);
    undoStack.value = undoStack.value.filter((e) => e.screen !== id);
    redoStack.value = redoStack.value.filter((e) => e.screen !== id);
    if (chosenId.value === id) chosenId.value = screens.value[0]?.id ?? null;
  }

  /** @param order all Screens, back to front */
  async function setDepth(order: readonly number[]): Promise<void> {
    await api('PUT /shots/:id/depth', { id: shot.value!.id }, { screens: order });
    screens.value = order.map((id) => screens.value.find((s) => s.id === id)!);
  }

  /** What is known of the plate's colour better than its tags; empty takes the tags again. */
  async function setColour(colour: SetColour): Promise<void> {
    const s = shot.value!;
    shot.value = { ...s, ...(await api('PUT /shots/:id', { id: s.id }, { revision: s.revision, colour })) };
  }

  async function setRange(from: number, to: number): Promise<void> {
    const s = shot.value!;
    shot.value = {
      ...s,
      ...(await api('PUT /shots/:id', { id: s.id }, { revision: s.revision, workingRange: [from, to] })),
    };
  }

  return {
    shot,
    screens,
    proper,
    previewing,
    chosen,
    told,
    chosenId,
    state,
    problem,
    undoStack,
    redoStack,
    beforeLastRepair,
    open,
    preview,
    edit,
    undo,
    redo,
    save,
    resolveClash,
    addScreen,
    take,
    removeScreen,
    setRange,
    setDepth,
    setColour,
  };
});
