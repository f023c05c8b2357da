<script setup lang="ts">
/** What is pinned in to judge the track by: a drawn card, the Screen's own fill, or a picture of one's own. */
import { computed } from 'vue';
import { CARD_KINDS } from '@yarlop/core/proof/proof-card';
import BenchSection from '../bench/BenchSection.vue';
import { sentenceOf } from '../commands/catalogue';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import type { ProofPicture } from '../stores/view';
import { useView } from '../stores/view';
import UploadBox from '../upload/UploadBox.vue';
import { useBringIn } from '../upload/use-bring-in';

const view = useView();
const store = useShot();
const media = useMedia();
const WHAT: Record<ProofPicture, string> = {
  survey: 'a little of everything',
  slip: 'steps at the edge: a slip hides or bares one',
  shear: 'right angles and diagonals: they lean',
  wobble: 'rings: they breathe one by one',
  scale: 'frames in frames: they swell and shrink',
  fill: "the Screen's own fill, as it is placed and not dressed",
  own: "a picture or clip of your own, such as a client's test chart",
};
const NAMES: Partial<Record<ProofPicture, string>> = { own: 'own picture' };
const PICTURES: readonly ProofPicture[] = [...CARD_KINDS, 'fill', 'own'];
const hasFill = computed(() => Boolean(store.chosen?.recipe.fill));

/** Files that may serve as a card: this production's, and not the plate itself. */
const files = computed(() =>
  media.all
    .filter((m) => media.own.has(m.hash) && m.hash !== store.shot?.mediaHash && m.state === 'ready')
    .map((m) => ({ value: m.hash, text: m.name })),
);
const isThere = computed(() => files.value.some((f) => f.value === view.ownCard));
const chosenFile = computed({
  get: () => (isThere.value ? view.ownCard : ''),
  set: (hash: string) => (view.ownCard = hash),
});
const choices = computed(() => [{ value: '', text: 'Choose a picture', disabled: true }, ...files.value]);

const { adding, arrived, bringIn } = useBringIn((hash) => (view.ownCard = hash));
</script>

<template>
  <BenchSection title="Proof card">
    <div class="d-flex gap-1 flex-wrap" role="group" aria-label="Cards">
      <BButton
        v-for="k in PICTURES"
        :key="k"
        variant="outline-secondary"
        class="flex-fill"
        :class="{ active: view.card === k }"
        :aria-pressed="view.card === k"
        :disabled="k === 'fill' && !hasFill"
        :title="k === 'fill' && !hasFill ? 'No fill is in this Screen yet; choose one in Dress' : WHAT[k]"
        :data-test="`card-${k}`"
        @click="view.card = k"
        >{{ NAMES[k] ?? k }}</BButton
      >
    </div>
    <template v-if="view.card === 'own'">
      <div class="d-flex gap-1 mt-1">
        <BFormSelect
          v-model="chosenFile"
          aria-label="Picture that serves as a card"
          title="A file of this production, laid into the Screen from corner to corner"
          data-test="own-card"
          :options="choices"
        />
        <BButton
          variant="outline-secondary"
          class="text-nowrap"
          title="Bring a picture or clip into this production, and use it as the card"
          data-test="bring-card"
          @click="bringIn"
          >Bring in ...</BButton
        >
      </div>
      <p v-if="!isThere" class="dim mb-0">The survey card stands in until a picture is chosen.</p>
      <UploadBox
        v-show="adding"
        ref="box"
        class="mt-2"
        prompt="Drop a picture or clip here"
        :done="arrived"
        @begun="adding = true"
      />
    </template>
    <label class="d-flex align-items-center gap-2 mt-1"
      >Opacity
      <input
        v-model.number="view.cardOpacity"
        type="range"
        class="form-range"
        min="0.1"
        max="1"
        step="0.05"
        title="How much of the plate shows through the card"
        data-test="card-opacity"
      /><span class="mono text-nowrap">{{ Math.round(100 * view.cardOpacity) }} %</span></label
    >
    <BFormCheckbox
      v-model="view.blinking"
      switch
      data-test="blink-card"
      title="Plate and card take turns, at the rate of the close-ups' blinking"
      >Blink card and plate</BFormCheckbox
    >
    <BFormCheckbox v-model="view.plateOnly" switch :title="sentenceOf('plate-alone')" data-test="plate-only"
      >Show the plate alone <kbd>V</kbd></BFormCheckbox
    >
  </BenchSection>
</template>
