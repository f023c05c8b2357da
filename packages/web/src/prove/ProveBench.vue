<script setup lang="ts">
import CornerBoard from '../corner-board/CornerBoard.vue';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import CardSection from './CardSection.vue';
import RepairSection from './RepairSection.vue';
import SceneSection from './SceneSection.vue';
import SettleSection from './SettleSection.vue';
import TouchUpsSection from './TouchUpsSection.vue';
import VerdictSection from './VerdictSection.vue';
import WorstSection from './WorstSection.vue';

const store = useShot();
const view = useView();
</script>

<template>
  <div v-if="store.chosen">
    <section v-if="!view.boardLarge"><CornerBoard /></section>
    <VerdictSection />
    <WorstSection />
    <RepairSection />
    <TouchUpsSection />
    <SettleSection />
    <CardSection />
    <SceneSection />
  </div>
  <template v-else>
    <p class="dim">There is no Screen to prove yet: drop four corners on one in Follow (<kbd>N</kbd>).</p>
    <SceneSection />
  </template>
</template>
