/** What is said of the shot by those who look at it: notes, the one that is being written, and how the shot stands. */
import { useStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import type { Ref } from 'vue';
import { computed, ref, shallowRef } from 'vue';
import { api, sentence } from '../api';
import type { ReviewNote, Standing } from '../types';
import { useMe } from './me';
import { usePlayhead } from './playhead';
import { useShot } from './shot';

/** A note that is not sent yet: it stays in the browser until it is, or is put away. */
export interface Draft {
  readonly from: number;
  readonly to: number;
  readonly words: string;
  readonly strokes: readonly (readonly number[])[];
  readonly screenId: number | null;
  readonly corner: number | null;
}

/** The note that is being written on the shot that is open; each shot may have one. */
function useDraft() {
  const shot = useShot();
  const playhead = usePlayhead();
  const kept = useStorage<Readonly<Record<number, Draft>>>('yarlop.notes', {});
  const draft = computed((): Draft | null => kept.value[shot.shot?.id ?? -1] ?? null);

  function begin(): void {
    if (!shot.shot || draft.value) return;
    const { frame } = playhead;
    const none = { words: '', strokes: [], screenId: null, corner: null };
    kept.value = { ...kept.value, [shot.shot.id]: { from: frame, to: frame, ...none } };
  }
  function write(part: Partial<Draft>): void {
    if (draft.value) kept.value = { ...kept.value, [shot.shot!.id]: { ...draft.value, ...part } };
  }
  function putAway(): void {
    const { [shot.shot?.id ?? -1]: _, ...others } = kept.value;
    kept.value = others;
  }
  return { draft, begin, write, putAway };
}

/** What is done to notes. @param tried does it, and shows how they stand then */
function useActs(
  own: ReturnType<typeof useDraft>,
  author: Readonly<Ref<string>>,
  tried: (work: (shotId: number) => Promise<unknown>) => Promise<boolean>,
) {
  /** the note that was deleted last, until something else is done */
  const deleted = shallowRef<ReviewNote | null>(null);
  const did = (work: (shotId: number) => Promise<unknown>): Promise<boolean> => {
    deleted.value = null;
    return tried(work);
  };
  const stand = (now: Standing): Promise<boolean> =>
    did((id) => api('PUT /shots/:id/review', { id }, { standing: now }));
  async function send(): Promise<void> {
    const draft = own.draft.value;
    if (!draft) return;
    const isSent = await did((id) => api('POST /shots/:id/review', { id }, { ...draft, author: author.value.trim() }));
    if (isSent) own.putAway();
  }
  const change = (id: number, part: Partial<Pick<ReviewNote, 'words' | 'state'>>): Promise<boolean> =>
    did(() => api('PUT /review/:id', { id }, part));
  async function remove(note: ReviewNote): Promise<void> {
    if (await did(() => api('DELETE /review/:id', { id: note.id }))) deleted.value = note;
  }
  async function takeBack(): Promise<void> {
    const note = deleted.value;
    if (!note) return;
    const { id: _id, shotId: _shot, created: _created, changed: _changed, ...whole } = note;
    await did((id) => api('POST /shots/:id/review', { id }, whole));
  }

  return { deleted, stand, send, change, remove, takeBack };
}

export const useReview = defineStore('review', () => {
  const shot = useShot();
  const playhead = usePlayhead();
  /** the notes stand in the place of the bench */
  const isOpen = ref(false);
  const typed = useStorage('yarlop.author', '');
  const me = useMe();
  /** whoever is signed in; without accounts, the name that was typed here before */
  const author = computed({ get: () => me.person?.name ?? typed.value, set: (name) => (typed.value = name) });
  const standing = ref<Standing>('in work');
  const notes = shallowRef<readonly ReviewNote[]>([]);
  const problem = ref('');
  const own = useDraft();

  async function load(id: number): Promise<void> {
    const told = await api('GET /shots/:id/review', { id });
    if (id !== shot.shot?.id) return;
    standing.value = told.standing;
    notes.value = told.notes;
  }
  /** Does it, says what went wrong, and shows how the notes stand then. @returns whether it went well */
  async function tried(work: (shotId: number) => Promise<unknown>): Promise<boolean> {
    const { id } = shot.shot!;
    problem.value = '';
    try {
      await work(id);
      await load(id);
      return true;
    } catch (e) {
      problem.value = sentence(e);
      return false;
    }
  }

  const open = computed(() => notes.value.filter((n) => n.state === 'open').length);
  /** those that are about the frame shown */
  const here = computed(() => notes.value.filter((n) => n.from <= playhead.frame && playhead.frame <= n.to));
  const acts = useActs(own, author, tried);
  return { isOpen, author, standing, notes, open, here, problem, load, ...own, ...acts };
});
