<script setup lang="ts">
import { Pane, Splitpanes } from 'splitpanes';
import { useStorage } from '@vueuse/core';
import { computed, nextTick, onMounted, useTemplateRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import { provideCommand } from '../commands/use-commands';
import FindControl from '../find/FindControl.vue';
import ScreenChips from '../bench/ScreenChips.vue';
import DressBench from '../dress/DressBench.vue';
import FollowBench from '../follow/FollowBench.vue';
import HandOverBench from '../hand-over/HandOverBench.vue';
import CornerBoard from '../corner-board/CornerBoard.vue';
import NotesBench from '../notes/NotesBench.vue';
import { useNoteCommands } from '../notes/use-note-commands';
import PinBench from '../pin/PinBench.vue';
import PlateBench from '../plate/PlateBench.vue';
import ProveBench from '../prove/ProveBench.vue';
import ProveLooks from '../prove/ProveLooks.vue';
import RouteBar from '../route/RouteBar.vue';
import type { Stage } from '../stages';
import { useReview } from '../stores/review';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import TourCard from '../tour/TourCard.vue';
import TransportStrip from '../strip/TransportStrip.vue';
import PictureView from '../viewer/PictureView.vue';
import { describeAid } from '../shared/view-aid';
import PointerReadout from './PointerReadout.vue';
import { useContextHelp } from '../bench/use-context-help';
import { useFocusReturn } from './use-focus-return';
import { useOpenShot } from './use-open-shot';
import { openPictureWindow, useIsSecond, usePictureWindow } from './use-picture-window';
import { useShortcuts } from './use-shortcuts';

const route = useRoute();
const store = useShot();
const view = useView();
const review = useReview();
const stage = computed(() => route.params['stage'] as Stage);
const bench = useTemplateRef<HTMLElement>('bench');
const id = computed(() => Number(route.params['id']));

const { problem, open } = useOpenShot(id);
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
useNoteCommands();
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
          <aside v-if="review.isOpen" class="bench" aria-label="Notes on the shot"><NotesBench /></aside>
          <aside v-else :key="stage" ref="bench" class="bench" :aria-label="`Controls of the stage ${stage}`">
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
      <PointerReadout /><span v-if="aid" class="aid" data-test="aid">view aid: {{ aid }}</span
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
