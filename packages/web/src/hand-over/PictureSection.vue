<script setup lang="ts">
/** The finished picture, or a part of it, as a clip or a sequence. */
import { useStorage } from '@vueuse/core';
import { roughBytes } from '@yarlop/core/formats/rough-size';
import { computed, onMounted, ref, watch } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { bytesText } from '../shared/format';
import { useMedia } from '../stores/media';
import { useShot } from '../stores/shot';
import { CARRIES_ALPHA, CARRIES_SOUND, PASSES, PICTURES, SHOWS } from './formats';
import { useDeliveries } from './use-deliveries';
import { durationText, useRates } from './use-rates';

const store = useShot(), { deliver } = useDeliveries();
const last = useStorage('yarlop.picture', { as: 'mp4', show: 'dressed', premultiplied: false, fullFloat: false, sound: true }), range = computed(() => [store.shot?.rangeFrom ?? 0, store.shot?.rangeTo ?? 0] as const);
const chosen = computed(() => PICTURES.find((p) => p.value === last.value.as) ?? PICTURES[0]!), frames = computed(() => range.value[1] - range.value[0] + 1), alpha = computed(() => CARRIES_ALPHA.includes(last.value.as));
const { seconds } = useRates(), time = computed(() => durationText(seconds(last.value.as, (store.shot?.probe.width ?? 0) * (store.shot?.probe.height ?? 0) * frames.value * 1e-6)));
const about = computed(() => bytesText(roughBytes(last.value.as, store.shot?.probe.width ?? 0, store.shot?.probe.height ?? 0, frames.value, (store.shot?.probe.bitDepth ?? 8) > 8)));
function settingsOf(): object {
  const { as, show, premultiplied, fullFloat, sound } = last.value;
  const settings = { as, ...(show === 'dressed' ? {} : { show }), ...(show === 'element' && premultiplied ? { premultiplied } : {}), ...(as === 'exr' && fullFloat ? { fullFloat } : {}), ...(CARRIES_SOUND.includes(as) && sound ? { sound } : {}), ...(['stabilised', 'flat'].includes(show) && store.chosenId !== null ? { screen: store.chosenId } : {}) };
  return settings;
}
const go = (): void => void deliver(settingsOf());
const shows = computed(() => [...SHOWS.filter((s) => s.value !== 'element' || alpha.value), ...(last.value.as === 'exr' ? PASSES : [])]);
/** A kind that the format cannot hold gives way to the finished picture. */
watch(shows, (all) => {
  if (!all.some((s) => s.value === last.value.show)) last.value.show = 'dressed';
});
async function goPasses(): Promise<void> {
  for (const show of ['clean', ...PASSES.map((p) => p.value)]) await deliver({ ...settingsOf(), show });
}
/** Fills of the library, each for a delivery of its own: the next versions of the content in one go. */
const media = useMedia(), fills = computed(() => media.all.filter((m) => m.hash !== store.shot?.mediaHash && m.state === 'ready')), batch = ref<string[]>([]);
async function goBatch(): Promise<void> {
  for (const fill of batch.value) await deliver({ ...settingsOf(), fill });
  batch.value = [];
}
onMounted(() => void media.load());
</script>

<template>
  <BenchSection title="Pictures">
    <BFormSelect v-model="last.as" :options="[...PICTURES]" aria-label="Format of the pictures" :title="chosen.what" data-test="picture-format" />
    <BFormSelect v-model="last.show" class="mt-1" :options="shows" aria-label="What the pictures show" title="The finished picture, the fills alone, the plate without the old screen's marks and hue, or how much of the fills shows" data-test="picture-show" />
    <p class="dim mb-1 mt-1">{{ chosen.what }}.</p>
    <BFormCheckbox v-if="last.show === 'element'" v-model="last.premultiplied" title="Colours times alpha, instead of straight">alpha multiplied in</BFormCheckbox>
    <BFormCheckbox v-if="last.as === 'exr'" v-model="last.fullFloat" title="32 bits a channel instead of 16">32 bits a channel</BFormCheckbox>
    <BFormCheckbox v-if="CARRIES_SOUND.includes(last.as)" v-model="last.sound" title="The plate's sound goes along, if it has any">the plate's sound</BFormCheckbox>
    <div class="d-flex align-items-center gap-2 mt-1"><BButton variant="primary" title="Render the working range" data-test="deliver-picture" @click="go">Deliver {{ frames }} {{ frames === 1 ? 'frame' : 'frames' }}</BButton><span class="dim mono" title="A rough size and time: noise makes it larger, and the time goes by what was delivered here before" data-test="estimate">about {{ about }}, {{ time }}</span></div>
    <BButton v-if="last.as === 'exr'" class="mt-1" variant="outline-secondary" title="Clean plate, element, kept light, spill change and holdouts, a delivery each: clean plate times what the element's alpha leaves, and element, and kept light, are the finished picture" data-test="deliver-passes" @click="goPasses">Deliver the passes</BButton>
    <details v-if="fills.length > 0 && store.screens.length === 1" class="mt-1"><summary class="dim" title="One delivery for each fill that is ticked; the slot itself stays as it is">A delivery for each of several fills</summary>
      <BFormCheckboxGroup v-model="batch" class="d-flex flex-column"><BFormCheckbox v-for="m in fills" :key="m.hash" :value="m.hash" :title="`Deliver the shot with ${m.name} in its slot`" :data-test="`batch-${m.name}`">{{ m.name }}</BFormCheckbox></BFormCheckboxGroup>
      <BButton variant="outline-secondary" :disabled="batch.length === 0" title="Each is a job of its own; one that fails holds none of the others up" data-test="deliver-batch" @click="goBatch">Deliver {{ batch.length }}</BButton></details>
  </BenchSection>
</template>
