<script setup lang="ts">
import { Pane, Splitpanes } from 'splitpanes';
import { useStorage } from '@vueuse/core';
import { computed, nextTick, onMounted, onUnmounted, ref, useTemplateRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import { sentence } from '../api';
import { provideCommand } from '../commands/use-commands';
import FindControl from '../find/FindControl.vue';
import ScreenChips from '../bench/ScreenChips.vue';
import DressBench from '../dress/DressBench.vue';
import FollowBench from '../follow/FollowBench.vue';
import HandOverBench from '../hand-over/HandOverBench.vue';
import CornerBoard from '../corner-board/CornerBoard.vue';
import PinBench from '../pin/PinBench.vue';
import PlateBench from '../plate/PlateBench.vue';
import ProveBench from '../prove/ProveBench.vue';
import ProveLooks from '../prove/ProveLooks.vue';
import RouteBar from '../route/RouteBar.vue';
import type { Stage } from '../stages';
import type { Screen } from '../types';
import { useCamera } from '../stores/camera';
import { useLive } from '../stores/live';
import { useMedia } from '../stores/media';
import { usePlayhead } from '../stores/playhead';
import { useProofs } from '../stores/proofs';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import { useView } from '../stores/view';
import TourCard from '../tour/TourCard.vue';
import TransportStrip from '../strip/TransportStrip.vue';
import PictureView from '../viewer/PictureView.vue';
import { codeText } from '../shared/format';
import { describeAid } from '../shared/view-aid';
import { useContextHelp } from '../bench/use-context-help';
import { useFocusReturn } from './use-focus-return';
import { openPictureWindow, useIsSecond, usePictureWindow } from './use-picture-window';
import { useShortcuts } from './use-shortcuts';

const route = useRoute();
const store = useShot();
const tracks = useTracks();
const playhead = usePlayhead();
const live = useLive();
const media = useMedia();
const view = useView();
const proofs = useProofs();
const camera = useCamera();
const stage = computed(() => route.params['stage'] as Stage);
const bench = useTemplateRef<HTMLElement>('bench');
const problem = ref('');
const id = computed(() => Number(route.params['id']));

function both(id: number): Promise<unknown> {
  const screen = store.screens.find((s) => s.id === id);
  // An edit that is not saved yet is not in what is loaded.
  if (screen && store.state === 'saved') loaded.set(id, roots(screen));
  else loaded.delete(id);
  return Promise.all([tracks.load(id), proofs.load(id)]);
}
/** A shot that is on its way hears of its own clip too: it may be read in between the answer and its arrival. */
let opening = 0;
async function open(): Promise<void> {
  opening++;
  try {
    await live.listens();
    loaded.clear();
    await store.open(id.value);
    const s = store.shot!;
    playhead.setup(s.frameCount, s.probe.frameRate[0] / s.probe.frameRate[1]);
    [playhead.from, playhead.to] = [s.rangeFrom, s.rangeTo];
    await Promise.all([media.load(s.productionId), camera.load(id.value), loadChanged()]);
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  } finally {
    opening--;
  }
}
/** A link may name the Screen that it is about. */
function chooseAsked(): void {
  const asked = Number(route.query['screen']);
  if (store.screens.some((s) => s.id === asked)) store.chosenId = asked;
}
watch(
  id,
  () => {
    playhead.frame = 0;
    view.zoom = 0;
    view.armed = null;
    void open().then(chooseAsked);
  },
  { immediate: true },
);
/** What a Screen's track and its proof depend on; what is laid over them, and what fills it, changes neither. */
const roots = ({ recipe }: Screen): string =>
  JSON.stringify({ ...recipe, name: '', device: '', fill: null, touchUps: null, settles: null });
const loaded = new Map<number, string>();
const loadChanged = (): Promise<unknown> =>
  Promise.all(store.screens.filter((s) => loaded.get(s.id) !== roots(s)).map((s) => both(s.id)));
watch(
  () => store.screens.map((s) => s.revision).join(),
  () => void loadChanged().catch(() => {}),
);
const offs = [
  live.on('frames', (e) => store.screens.some((s) => s.id === e.screenId) && tracks.merge(e)),
  live.on('media', (e) => (opening > 0 || e.hash === store.shot?.mediaHash) && void open()),
  live.on('job', (j) => {
    const screen = store.screens.find((s) => s.id === j.screenId);
    const tells = ['follow', 'prove'].includes(j.kind) && ['done', 'cancelled', 'failed'].includes(j.state);
    if (screen && tells) void both(screen.id).catch(() => {});
  }),
  live.on('points', (p) => camera.hear(p)),
  live.on('camera', (e) => {
    if (e.shotId !== store.shot?.id) return;
    void Promise.all([camera.load(e.shotId), ...store.screens.map((s) => both(s.id))]).catch(() => {});
  }),
  live.onReconnected(() => void open()),
];
onUnmounted(() => offs.forEach((off) => off()));
onMounted(() => {
  view.tool = { kind: 'select' };
});
watch(
  stage,
  (s) => {
    view.moves = s === 'prove' ? 'touch-up' : 'pin';
    view.repairs = 'all';
    view.show = 'dressed';
  },
  { immediate: true },
);
useShortcuts(stage);
const isSecond = useIsSecond();
usePictureWindow(id.value, stage);
provideCommand(
  'second-window',
  () => openPictureWindow(id.value, stage.value),
  () => !isSecond.value,
);
useFocusReturn();
const help = useContextHelp();
/** Share of the width that the bench takes, per cent; kept by the browser. The splitter says it to screen readers. */
const benchWidth = useStorage('yarlop.bench', 23.5);
function resized(e: { panes: { size: number }[] }): void {
  benchWidth.value = e.panes[1]?.size ?? benchWidth.value;
}
watch(
  [benchWidth, () => view.alone],
  () =>
    void nextTick(() => {
      const splitter = document.querySelector('.splitpanes__splitter');
      for (const [k, v] of Object.entries({
        'aria-label': 'Width of the bench',
        'aria-valuemin': 12,
        'aria-valuemax': 60,
        'aria-valuenow': Math.round(benchWidth.value),
      }))
        splitter?.setAttribute(k, String(v));
    }),
  { immediate: true, flush: 'post' },
);
const aid = computed(() => describeAid(view));
const pointer = computed(() => {
  const p = view.pointer;
  if (!p) return '';
  const [r, g, b] = (p.rgb ?? []).map((v) => codeText(v, view.white));
  return `x ${p.x.toFixed(1)}  y ${p.y.toFixed(1)}   ${p.rgb ? `R ${r} G ${g} B ${b}` : 'outside'}`;
});
</script>

<template>
  <div class="shot-page">
    <RouteBar v-if="!view.alone" :stage="stage" />
    <TourCard v-if="!view.alone" :stage="stage" />
    <div v-if="store.state === 'clash'" class="banner" role="alert">
      {{ store.problem }}
      <BButton variant="outline-secondary" data-test="take-theirs" @click="store.resolveClash(false)"
        >Take the other version</BButton
      >
      <BButton variant="outline-secondary" data-test="keep-mine" @click="store.resolveClash(true)"
        >Save mine after it</BButton
      >
    </div>
    <div v-else-if="store.state === 'refused'" class="banner" role="alert">
      {{ store.problem }} <BButton variant="outline-secondary" @click="store.undo()">Undo the last step</BButton>
    </div>
    <div v-else-if="problem" class="banner" role="alert">
      {{ problem }} <BButton variant="outline-secondary" @click="open">Try again</BButton>
    </div>
    <PictureView v-if="view.alone" :stage="stage" class="grow" />
    <Splitpanes v-else class="grow" @resized="resized">
      <Pane :size="100 - benchWidth" :min-size="40">
        <PictureView :stage="stage">
          <ScreenChips />
          <ProveLooks v-if="stage === 'prove' && !view.boardLarge" />
          <div v-if="view.boardLarge" class="board-instead" @pointerdown.stop @wheel.stop><CornerBoard large /></div>
        </PictureView>
      </Pane>
      <Pane :size="benchWidth" :min-size="12">
        <div class="bench-side">
          <FindControl :bench="bench" />
          <aside :key="stage" ref="bench" class="bench" :aria-label="`Controls of the stage ${stage}`">
            <PlateBench v-if="stage === 'plate'" />
            <FollowBench v-else-if="stage === 'follow'" />
            <PinBench v-else-if="stage === 'pin'" />
            <ProveBench v-else-if="stage === 'prove'" />
            <DressBench v-else-if="stage === 'dress'" />
            <HandOverBench v-else-if="stage === 'hand-over'" />
          </aside>
        </div>
      </Pane>
    </Splitpanes>
    <TransportStrip v-if="!isSecond" />
    <footer v-if="!view.alone" class="footer mono dim">
      <span data-test="readout">{{ pointer }}</span><span v-if="aid" class="aid" data-test="aid"
        >view aid: {{ aid }}</span
      ><span class="explained" data-test="context-help">{{ help }}</span>
    </footer>
  </div>
</template>

<style scoped>
.shot-page {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.grow {
  flex: 1;
  min-height: 0;
}
.board-instead {
  position: absolute;
  inset: 0;
  z-index: 1;
  background: #242424;
}
.bench-side {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: var(--ink-raised);
}
.bench {
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
  scrollbar-gutter: stable;
  padding: 0.5rem 0.8rem 0.7rem;
}
.bench :deep(.gone-to) {
  outline: 2px solid var(--brass);
  outline-offset: 2px;
}
.bench :deep(section) {
  padding-bottom: 0.8rem;
  margin-bottom: 0.8rem;
  border-bottom: 1px solid var(--line);
}
.bench :deep(section.folded) {
  padding-bottom: 0.1rem;
  margin-bottom: 0.4rem;
}
.bench :deep(section:last-child) {
  border-bottom: 0;
}
.banner {
  background: var(--ink);
  border-bottom: 2px solid var(--weak);
  padding: 0.35rem 0.8rem;
  display: flex;
  gap: 0.6rem;
  align-items: center;
}
.footer {
  height: 20px;
  padding: 0 0.7rem;
  font-size: 0.72rem;
  background: var(--ink);
  white-space: pre;
  display: flex;
  gap: 2rem;
}
.aid {
  color: var(--weak);
}
.explained {
  margin-left: auto;
  font-family: 'IBM Plex Sans', sans-serif;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
