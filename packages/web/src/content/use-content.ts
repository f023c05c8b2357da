/**
 * Made-up content that is open: its document with undo, saved whole a moment after each edit, and brought to the Screens that
 * show it when it is left.
 */
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import { refAutoReset } from '@vueuse/core';
import { onScopeDispose, ref, shallowRef } from 'vue';
import { ApiFailure, api, sentence } from '../api';
import type { Content, Recipe } from '../types';

type Document = NonNullable<NonNullable<Recipe['fill']>['made']>;

interface Edit {
  readonly name: string;
  readonly before: MadeFill;
  readonly after: MadeFill;
}

/** ms after an edit until it is saved, and until a save that failed is tried again. */
const SAVE_DELAY = 400;
const RETRY = 2000;
/** ms without a change after which a drag is taken to pause. */
const DRAG_PAUSE = 400;
/** Steps that can be taken back. */
const MOST_STEPS = 200;

/** Steps back and forth. @param put shows a document, and has it saved */
function useSteps(put: (next: MadeFill) => void) {
  const done = shallowRef<readonly Edit[]>([]);
  const undone = shallowRef<readonly Edit[]>([]);
  function add(e: Edit): void {
    const last = done.value.at(-1);
    const isSameNudge = e.name.startsWith('Nudge') && last?.name === e.name;
    const steps = isSameNudge ? [...done.value.slice(0, -1), { ...last, after: e.after }] : [...done.value, e];
    done.value = steps.slice(-MOST_STEPS);
    undone.value = [];
    put(e.after);
  }
  function undo(): void {
    const e = done.value.at(-1);
    if (!e) return;
    [done.value, undone.value] = [done.value.slice(0, -1), [...undone.value, e]];
    put(e.before);
  }
  function redo(): void {
    const e = undone.value.at(-1);
    if (!e) return;
    [undone.value, done.value] = [undone.value.slice(0, -1), [...done.value, e]];
    put(e.after);
  }
  return { done, undone, add, undo, redo };
}

/** What is saved of a document, and what not yet. */
function useSaving(id: number) {
  const content = shallowRef<Content | null>(null);
  const document = shallowRef<MadeFill>({ ground: [0, 0, 0] });
  const state = ref<'saved' | 'saving' | 'unsaved' | 'clash'>('saved');
  const problem = ref('');
  let timer: ReturnType<typeof setTimeout> | undefined;
  let saving: Promise<void> = Promise.resolve();
  let saved: MadeFill | null = null;

  async function load(): Promise<void> {
    content.value = await api('GET /contents/:id', { id });
    saved = document.value = content.value.document as MadeFill;
    [state.value, problem.value] = ['saved', ''];
  }

  async function send(): Promise<void> {
    const sent = document.value;
    const { revision } = content.value!;
    if (sent === saved || state.value === 'clash') return;
    try {
      content.value = await api('PUT /contents/:id', { id }, { revision, document: sent as Document });
      saved = sent;
      problem.value = '';
      if (document.value === sent) state.value = 'saved';
    } catch (e) {
      const isClash = e instanceof ApiFailure && e.status === 409;
      state.value = isClash ? 'clash' : 'unsaved';
      problem.value = sentence(e);
      if (!isClash) schedule(RETRY);
    }
  }
  function schedule(ms: number): void {
    clearTimeout(timer);
    timer = setTimeout(() => void save(), ms);
  }
  /** Saves what is not saved yet, now. */
  function save(): Promise<void> {
    clearTimeout(timer);
    saving = saving.then(send);
    return saving;
  }
  function put(next: MadeFill): void {
    document.value = next;
    if (state.value === 'clash') return;
    state.value = 'saving';
    schedule(SAVE_DELAY);
  }
  async function rename(name: string): Promise<void> {
    await save();
    content.value = await api('PUT /contents/:id', { id }, { revision: content.value!.revision, name });
  }
  /** After a clash: takes what was saved elsewhere, or lays this document over it. */
  async function settle(isMine: boolean): Promise<void> {
    const mine = document.value;
    await load();
    if (isMine) put(mine);
  }
  onScopeDispose(() => clearTimeout(timer));
  return { content, document, state, problem, load, save, put, rename, settle };
}

export function useContent(id: number) {
  const own = useSaving(id);
  const steps = useSteps(own.put);
  let before: MadeFill | null = null;
  /** whether something is dragged about: it was a moment ago, and is not put down yet */
  const isDragged = refAutoReset(false, DRAG_PAUSE);

  /** Shows an edit while it is being made; nothing is saved until {@link edit}. */
  function preview(next: MadeFill): void {
    before ??= own.document.value;
    own.document.value = next;
    isDragged.value = true;
  }
  /** One step of undo. */
  function edit(name: string, next: MadeFill): void {
    steps.add({ name, before: before ?? own.document.value, after: next });
    before = null;
    isDragged.value = false;
  }
  /** Saves it, and brings it to the Screens that show it. */
  async function show(): Promise<void> {
    await own.save();
    if (own.state.value !== 'saved') return;
    await api('POST /contents/:id/show', { id });
    own.content.value = await api('GET /contents/:id', { id });
  }
  return { ...own, ...steps, isDragged, preview, edit, show };
}

export type OpenContent = ReturnType<typeof useContent>;
