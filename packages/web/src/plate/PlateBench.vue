<script setup lang="ts">
import { curveChoices, primariesChoices } from '../shared/colour-names';
import { sentenceOf } from '../commands/catalogue';
import BenchSection from '../bench/BenchSection.vue';
import { computed, ref } from 'vue';
import { api, sentence } from '../api';
import { rateText } from '../shared/format';
import { SURROUNDS } from '../shared/view-aid';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import TableSelect from '../shared/TableSelect.vue';
import AidControls from '../viewer/AidControls.vue';
import RelinkSection from './RelinkSection.vue';

const store = useShot();
const playhead = usePlayhead();
const view = useView();
const problem = ref('');
const p = computed(() => store.shot?.probe);
async function range(from: number, to: number): Promise<void> {
  try {
    await store.setRange(from, to);
    [playhead.from, playhead.to] = [from, to];
    problem.value = '';
  } catch (e) {
    problem.value = sentence(e);
  }
}
const CURVES = curveChoices('bt709', 'srgb', 'gamma22', 'gamma24', 'linear', 'pq', 'hlg', 'acescct', 'acescc');
const PRIMARIES = primariesChoices('bt709', 'bt2020', 'p3', 'ap0', 'ap1');
async function colour(part: { transfer?: string; primaries?: string }): Promise<void> {
  const next = Object.fromEntries(Object.entries({ ...store.shot!.colour, ...part }).filter(([, v]) => v));
  await store.setColour(next).then(
    () => (problem.value = ''),
    (e: unknown) => (problem.value = sentence(e)),
  );
}
async function makeAnew(): Promise<void> {
  await api('POST /media/:hash/anew', { hash: store.shot!.mediaHash }).then(
    () => (problem.value = ''),
    (e: unknown) => (problem.value = sentence(e)),
  );
}
</script>

<template>
  <div v-if="store.shot && p">
    <ul v-if="store.shot.notes.length" class="notes" data-test="plate-notes">
      <li v-for="n in store.shot.notes" :key="n">{{ n }}</li>
    </ul>
    <BenchSection title="Working range">
      <p class="mono mb-2" data-test="range">
        {{ playhead.from }} to {{ playhead.to }} <span class="dim">({{ playhead.to - playhead.from + 1 }} frames)</span>
      </p>
      <div class="d-flex gap-1">
        <BButton
          variant="outline-secondary"
          :title="sentenceOf('begin-range')"
          data-test="range-in"
          @click="range(playhead.frame, Math.max(playhead.frame, playhead.to))"
          >Begin here</BButton
        >
        <BButton
          variant="outline-secondary"
          :title="sentenceOf('end-range')"
          data-test="range-out"
          @click="range(Math.min(playhead.from, playhead.frame), playhead.frame)"
          >End here</BButton
        >
        <BButton
          variant="outline-secondary"
          title="The working range is the whole clip"
          @click="range(0, playhead.count - 1)"
          >Whole clip</BButton
        >
      </div>
      <p v-if="problem" class="weak mt-2" role="alert">{{ problem }}</p>
    </BenchSection>
    <BenchSection title="View aid">
      <template #note>(never changes what is used)</template>
      <AidControls />
      <div class="d-flex align-items-center gap-1 mt-1">
        Surround
        <BButton
          v-for="s in SURROUNDS"
          :key="s"
          variant="outline-secondary"
          :class="{ active: view.surround === s }"
          :aria-pressed="view.surround === s"
          :title="`Grey around the picture, ${s} % of white's light, so that its brightness can be judged`"
          @click="view.surround = s"
          >{{ s }} %</BButton
        >
      </div>
    </BenchSection>
    <BenchSection title="The clip">
      <dl class="facts">
        <dt>File</dt>
        <dd class="text-break">{{ store.shot.mediaName }}</dd>
        <dt>Size</dt>
        <dd class="mono">{{ p.width }} x {{ p.height }}</dd>
        <dt>Rate</dt>
        <dd class="mono">{{ rateText(p.frameRate) }}</dd>
        <dt>Frames</dt>
        <dd class="mono">{{ store.shot.frameCount }}</dd>
        <dt>First frame</dt>
        <dd class="mono">{{ p.firstFrame }}</dd>
        <dt>Timecode</dt>
        <dd class="mono">{{ p.timecode ?? 'none' }}</dd>
        <dt>Pixels</dt>
        <dd class="mono">{{ p.codec }}, {{ p.pixelFormat }}, {{ p.bitDepth }} bit</dd>
        <dt>Colour</dt>
        <dd class="mono">
          {{ p.colour.transfer ?? 'untagged' }}, {{ p.colour.primaries ?? 'untagged' }}, {{ p.colour.range }}
        </dd>
      </dl>
      <div class="set">
        <span class="dim">its curve is</span
        ><BFormSelect
          :model-value="store.shot.colour?.transfer ?? ''"
          :options="[{ value: '', text: 'as tagged' }, ...CURVES]"
          aria-label="Curve of the plate"
          title="By which curve its code values become light, where its tag is missing or wrong"
          data-test="plate-transfer"
          @update:model-value="colour({ transfer: String($event) })"
        />
        <span class="dim">its primaries</span
        ><BFormSelect
          :model-value="store.shot.colour?.primaries ?? ''"
          :options="[{ value: '', text: 'as tagged' }, ...PRIMARIES]"
          aria-label="Primaries of the plate"
          title="Which red, green and blue its numbers mean"
          data-test="plate-primaries"
          @update:model-value="colour({ primaries: String($event) })"
        />
        <span class="dim">seen through</span>
        <div>
          <TableSelect
            :chosen="view.table"
            label="Colour table of the view"
            help="A colour table that everything is looked at through; nothing that is measured or delivered goes through it"
            name="view-table"
            @choose="view.table = $event"
          />
        </div>
      </div>
      <BButton
        class="mt-2"
        variant="outline-secondary"
        title="Decodes the original once more: for when pictures of it are missing or wrong. Screens and tracks stay as they are."
        data-test="make-anew"
        @click="makeAnew"
        >Make the working files anew</BButton
      >
    </BenchSection>
    <RelinkSection />
  </div>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: 6rem 1fr;
  gap: 0.15rem 0.5rem;
  margin: 0;
  font-size: 0.8125rem;
}
dt {
  font-weight: 400;
  color: var(--text-dim);
}
dd {
  margin: 0;
}
.set {
  display: grid;
  grid-template-columns: 6rem 1fr;
  gap: 3px 0.5rem;
  align-items: center;
  font-size: 0.8125rem;
  margin-top: 0.5rem;
}
.notes {
  margin: 0 0 0.8rem;
  padding-left: 1.1rem;
  color: var(--weak);
}
.weak {
  color: var(--weak);
}
</style>
