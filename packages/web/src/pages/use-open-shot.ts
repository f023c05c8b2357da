/** What the shot page shows, asked for when a shot is opened and kept as the server's events tell. */
import type { Ref } from 'vue';
import { onUnmounted, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { sentence } from '../api';
import { useCamera } from '../stores/camera';
import { useLive } from '../stores/live';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useProofs } from '../stores/proofs';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import type { Screen } from '../types';

/** What a Screen's track and its proof depend on; what is laid over them, and what fills it, changes neither. */
const roots = ({ recipe }: Screen): string =>
  JSON.stringify({ ...recipe, name: '', device: '', fill: null, touchUps: null, settles: null });

/** Tracks and proofs of the shot's Screens, each read when what it depends on has changed. */
function useTracksAndProofs() {
  const store = useShot();
  const tracks = useTracks();
  const proofs = useProofs();
  const loaded = new Map<number, string>();

  function both(id: number): Promise<unknown> {
    const screen = store.screens.find((s) => s.id === id);
    // An edit that is not saved yet is not in what is loaded.
    if (screen && store.state === 'saved') loaded.set(id, roots(screen));
    else loaded.delete(id);
    return Promise.all([tracks.load(id), proofs.load(id)]);
  }
  const all = (): Promise<unknown> => Promise.all(store.screens.map((s) => both(s.id)));
  const changed = (): Promise<unknown> =>
    Promise.all(store.screens.filter((s) => loaded.get(s.id) !== roots(s)).map((s) => both(s.id)));
  watch(
    () => store.screens.map((s) => s.revision).join(),
    () => void changed().catch(() => {}),
  );
  const forget = (): void => loaded.clear();
  return { both, all, changed, forget };
}

/** A link may name the Screen or the frame that it is about, or be about the notes. */
function useAsked(): () => void {
  const route = useRoute();
  const store = useShot();
  const review = useReview();
  const playhead = usePlayhead();
  return () => {
    if (route.query['notes']) review.isOpen = true;
    const frame = Number(route.query['frame'] ?? NaN);
    if (Number.isInteger(frame)) playhead.go(frame);
    const asked = Number(route.query['screen']);
    if (store.screens.some((s) => s.id === asked)) store.chosenId = asked;
  };
}

/** What the server tells of the shot while it is open. */
function useHearing(o: {
  readonly open: () => Promise<void>;
  readonly read: ReturnType<typeof useTracksAndProofs>;
  readonly isOpening: () => boolean;
}): void {
  const { open, read } = o;
  const store = useShot();
  const live = useLive();
  const media = useMedia();
  const camera = useCamera();
  const review = useReview();
  const tracks = useTracks();
  const isOwn = (e: { readonly shotId: number }): boolean => e.shotId === store.shot?.id;
  const offs = [
    live.on('frames', (e) => store.screens.some((s) => s.id === e.screenId) && tracks.merge(e)),
    live.on(
      'media',
      (e) => void (o.isOpening() || e.hash === store.shot?.mediaHash ? open() : media.load().catch(() => {})),
    ),
    live.on('job', (j) => {
      const screen = store.screens.find((s) => s.id === j.screenId);
      const tells = ['follow', 'prove'].includes(j.kind) && ['done', 'cancelled', 'failed'].includes(j.state);
      if (screen && tells) void read.both(screen.id).catch(() => {});
    }),
    live.on('review', (e) => isOwn(e) && void review.load(e.shotId).catch(() => {})),
    live.on('points', (p) => camera.hear(p)),
    live.on('camera', (e) => isOwn(e) && void Promise.all([camera.load(e.shotId), read.all()]).catch(() => {})),
    live.onReconnected(() => void open()),
  ];
  onUnmounted(() => offs.forEach((off) => off()));
}

/** @returns what went wrong, and what opens the shot once more */
export function useOpenShot(id: Ref<number>) {
  const store = useShot();
  const playhead = usePlayhead();
  const live = useLive();
  const media = useMedia();
  const camera = useCamera();
  const review = useReview();
  const view = useView();
  const read = useTracksAndProofs();
  const chooseAsked = useAsked();
  const problem = ref('');
  /** A shot that is on its way hears of its own clip too: it may be read in between the answer and its arrival. */
  let opening = 0;

  async function open(): Promise<void> {
    opening++;
    try {
      await live.listens();
      read.forget();
      await store.open(id.value);
      const s = store.shot!;
      playhead.setup(s.frameCount, s.probe.frameRate[0] / s.probe.frameRate[1]);
      [playhead.from, playhead.to] = [s.rangeFrom, s.rangeTo];
      await Promise.all([media.load(s.productionId), camera.load(s.id), review.load(s.id), read.changed()]);
      problem.value = '';
    } catch (e) {
      problem.value = sentence(e);
    } finally {
      opening--;
    }
  }
  watch(
    id,
    () => {
      playhead.frame = 0;
      view.zoom = 0;
      view.armed = null;
      view.box = null;
      void open().then(chooseAsked);
    },
    { immediate: true },
  );

  useHearing({ open, read, isOpening: () => opening > 0 });
  return { problem, open };
}
