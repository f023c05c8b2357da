/**
 * A second window with the picture alone, for another display: the window that opened it tells it over a channel of the
 * browser what it shows, and it shows the same.
 */
import { useBroadcastChannel } from '@vueuse/core';
import { computed, watch } from 'vue';
import type { ComputedRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Stage } from '../stages';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';

/** Frames that the second window may be off by while both play. */
const MAY_LAG = 2;

/** What of the view is the same in both. */
const VIEW = [
  ...(['brighten', 'contrast', 'gamma', 'channel', 'edges', 'table'] as const),
  ...([
    'show',
    'plateOnly',
    'wipe',
    'beside',
    'repairs',
    'look',
    'card',
    'ownCard',
    'cardOpacity',
    'ruling',
    'cells',
  ] as const),
] as const;
/** And of how it plays. */
const PLAYS = ['from', 'to', 'loop'] as const;

interface Shown {
  readonly kind: 'shown';
  readonly stage: Stage;
  readonly frame: number;
  readonly playing: boolean;
  readonly chosen: number | null;
  readonly plays: Readonly<Record<string, unknown>>;
  readonly view: Readonly<Record<string, unknown>>;
}
/** The second window asks for it when it opens. */
type Word = Shown | { readonly kind: 'asks' };

/** Whether this window is the second one. */
export function useIsSecond(): ComputedRef<boolean> {
  const route = useRoute();
  return computed(() => 'second' in route.query);
}

const channelOf = (shot: number): string => `yarlop.picture.${shot}`;

function pick<T extends object, K extends keyof T>(from: T, keys: readonly K[]): Pick<T, K> {
  return Object.fromEntries(keys.map((k) => [k, from[k]])) as Pick<T, K>;
}

/** Tells a second window what this one shows. @param shot its id */
function useTelling(shot: number, stage: ComputedRef<Stage>): void {
  const playhead = usePlayhead();
  const view = useView();
  const store = useShot();
  const { post, data } = useBroadcastChannel<Word, Word>({ name: channelOf(shot) });
  const shown = computed((): Shown => ({
    kind: 'shown',
    ...{ stage: stage.value, frame: playhead.frame, playing: playhead.playing, chosen: store.chosenId },
    ...{ plays: pick(playhead, PLAYS), view: pick(view, VIEW) },
  }));
  watch(shown, (s) => post(s));
  watch(data, (word) => word?.kind === 'asks' && post(shown.value));
}

/** Shows what the first window tells. */
function useHearing(shot: number, stage: ComputedRef<Stage>): void {
  const playhead = usePlayhead();
  const view = useView();
  const store = useShot();
  const router = useRouter();
  const { post, data } = useBroadcastChannel<Word, Word>({ name: channelOf(shot) });
  view.alone = true;
  post({ kind: 'asks' });
  function show(s: Shown): void {
    if (s.stage !== stage.value) void router.replace({ path: `/shots/${shot}/${s.stage}`, query: { second: '' } });
    Object.assign(view, s.view);
    Object.assign(playhead, s.plays);
    if (store.screens.some((x) => x.id === s.chosen)) store.chosenId = s.chosen;
    const isInStep = playhead.playing && s.playing && Math.abs(playhead.frame - s.frame) <= MAY_LAG;
    if (!isInStep) playhead.go(s.frame);
    playhead.playing = s.playing;
  }
  watch(data, (word) => word?.kind === 'shown' && show(word));
  // What is told before the shot is there is shown once it is.
  watch(
    () => store.shot?.id,
    () => post({ kind: 'asks' }),
  );
}

/** Keeps both windows of a shot in step. */
export function usePictureWindow(shot: number, stage: ComputedRef<Stage>): void {
  if (useIsSecond().value) useHearing(shot, stage);
  else useTelling(shot, stage);
}

/** Opens the second window, or brings it to the front as it is: an address given to a window that is there loads it anew. */
export function openPictureWindow(shot: number, stage: Stage): void {
  const second = window.open('', `yarlop-picture-${shot}`, 'popup,width=1280,height=720');
  if (!second) return;
  if (second.location.href === 'about:blank') second.location.replace(`/shots/${shot}/${stage}?second`);
  second.focus();
}
