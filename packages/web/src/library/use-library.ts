/** The files of a production, and what is done to several of them. */
import { onMounted, onUnmounted, ref, shallowRef } from 'vue';
import { api, sentence } from '../api';
import { countText } from '../shared/format';
import { useLive } from '../stores/live';
import type { LibraryItem } from '../types';

/** What was done, and the way back. */
interface Done {
  readonly said: string;
  readonly back: () => Promise<unknown>;
}
type Files = readonly LibraryItem[];
/** A Screen, and the revision that it had before. */
type Before = readonly { readonly id: number; readonly revision: number }[];

async function rename({ hash, name }: LibraryItem, to: string): Promise<Done> {
  await api('PUT /media/:hash', { hash }, { name: to });
  return {
    said: `"${name}" is called "${to}" now.`,
    back: () => api('PUT /media/:hash', { hash }, { name }),
  };
}

async function setTags(list: readonly Pick<LibraryItem, 'hash' | 'tags'>[]): Promise<void> {
  for (const { hash, tags } of list) await api('PUT /media/:hash', { hash }, { tags });
}

/** Gives some a tag, or takes it from them. */
async function tag(some: Files, word: string, isGiven: boolean): Promise<Done> {
  const without = (m: LibraryItem): string[] => m.tags.filter((t) => t !== word);
  await setTags(some.map((m) => ({ hash: m.hash, tags: isGiven ? [...without(m), word] : without(m) })));
  const what = countText(some.length, 'file');
  return { said: isGiven ? `${what} tagged "${word}".` : `"${word}" taken from ${what}.`, back: () => setTags(some) };
}

/** Each Screen to its recipe of then, as a step of its own. */
async function backTo(screens: Before): Promise<void> {
  for (const { id, revision } of screens) {
    const { recipe } = await api('GET /screens/:id/revisions/:revision', { id, revision });
    const now = await api('GET /screens/:id', { id });
    await api('PUT /screens/:id', { id }, { revision: now.revision, recipe, step: 'Take back replacing' } as never);
  }
}

/** Puts one file in the place of another on every Screen of a production. */
async function replace(production: number, from: LibraryItem, to: LibraryItem): Promise<Done> {
  const { screens } = await api('POST /productions/:id/replace', { id: production }, { from: from.hash, to: to.hash });
  const said = `"${to.name}" stands in the place of "${from.name}" on ${countText(screens.length, 'Screen')}.`;
  return { said, back: () => backTo(screens) };
}

/** Those that nothing uses go into the bin. @returns also why others stayed */
async function remove(some: Files): Promise<Done & { readonly refused: string }> {
  const gone: LibraryItem[] = [];
  const refused: string[] = [];
  for (const m of some)
    await api('PUT /bin/:kind/:key', { kind: 'media', key: m.hash }).then(
      () => gone.push(m),
      (e: unknown) => refused.push(sentence(e)),
    );
  const back = async (): Promise<void> => {
    for (const m of gone) await api('POST /bin/:kind/:key/out', { kind: 'media', key: m.hash });
  };
  const said = gone.length > 0 ? `${countText(gone.length, 'file')} in the bin.` : '';
  return { said, back, refused: refused.join(' ') };
}

export function useLibrary(production: number) {
  const live = useLive();
  const files = shallowRef<Files | null>(null);
  const problem = ref('');
  /** what was done last */
  const done = shallowRef<Done | null>(null);

  async function load(): Promise<void> {
    files.value = await api('GET /productions/:id/library', { id: production });
  }
  async function tried(work: () => Promise<unknown>): Promise<void> {
    problem.value = '';
    await work().catch((e: unknown) => (problem.value = sentence(e)));
    await load().catch((e: unknown) => (problem.value ||= sentence(e)));
  }
  const did = (work: () => Promise<Done>): Promise<void> => tried(async () => (done.value = await work()));
  const removed = (some: Files): Promise<void> =>
    tried(async () => {
      const { refused, ...all } = await remove(some);
      done.value = all.said ? all : null;
      if (refused) throw new Error(refused);
    });
  async function takeBack(): Promise<void> {
    const last = done.value;
    done.value = null;
    if (last) await tried(last.back);
  }
  const again = (): void => void load().catch(() => {});
  const offs = [live.on('media', again), live.on('bin', again), live.on('screen', again)];
  onMounted(() => load().catch((e: unknown) => (problem.value = sentence(e))));
  onUnmounted(() => offs.forEach((off) => off()));
  return {
    files,
    problem,
    done,
    load,
    takeBack,
    rename: (m: LibraryItem, name: string) => did(() => rename(m, name)),
    tag: (some: Files, word: string, isGiven: boolean) => did(() => tag(some, word, isGiven)),
    replace: (from: LibraryItem, to: LibraryItem) => did(() => replace(production, from, to)),
    remove: removed,
  };
}
