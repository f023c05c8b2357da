<script setup lang="ts">
/** The camera of the whole scene: what is known of it, what moves by itself, its run, and how good it is. */
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import { computed, watch } from 'vue';
import BenchSection from '../bench/BenchSection.vue';
import { asSentence } from '../shared/format';
import NumberField from '../shared/NumberField.vue';
import { useCamera } from '../stores/camera';
import { useLive } from '../stores/live';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useView } from '../stores/view';
import type { CameraSettings } from '../types';
import { adviceOn } from './camera-advice';
import CameraPoints from './CameraPoints.vue';
import CameraScreen from './CameraScreen.vue';
import CameraWorld from './CameraWorld.vue';

const camera = useCamera();
const live = useLive();
const playhead = usePlayhead();
const store = useShot();
const view = useView();

const KINDS = [
  { value: 'find', text: 'moves, or only turns: find out' },
  { value: 'moving', text: 'moves' },
  { value: 'tripod', text: 'only turns, on a tripod' },
];
const KNOWN = [
  { value: 'nothing', text: 'is not known: find it' },
  { value: 'mm', text: 'in mm, with the width of the sensor' },
  { value: 'angle', text: 'as an angle across the picture' },
];
/** A usual lens, to begin with. Common practice, no source. */
const FIRST: Readonly<Record<CameraSettings['known']['as'], CameraSettings['known']>> = {
  nothing: { as: 'nothing' },
  mm: { as: 'mm', focal: 35, sensor: 36 },
  angle: { as: 'angle', degrees: 54 },
};
const LENSES = [
  { value: 'find', text: 'is not known: find it' },
  { value: 'straight', text: 'does not bow straight lines' },
  { value: 'known', text: 'bows by known terms' },
];
const lensAs = computed(() => {
  const { lens } = camera.settings;
  if (!lens) return 'find';
  return lens.k1 === 0 && lens.k2 === 0 ? 'straight' : 'known';
});
/** To begin with; a slight bow where it is known, so that there is something to set. */
const LENS_OF: Readonly<Record<string, CameraSettings['lens']>> = {
  straight: { k1: 0, k2: 0 },
  known: { k1: -0.05, k2: 0 },
};
const known = computed(() => camera.settings.known);
const job = computed(() => camera.job);
const isSolving = computed(() => !!job.value && job.value.framesDone >= job.value.framesTotal);
const ready = computed(() => store.shot?.mediaState === 'ready');
const file = computed(() => camera.solved?.file ?? null);
const here = computed(() => file.value?.frames.find((f) => f.frame === playhead.frame) ?? null);
/** it was solved with other settings than stand here by now */
const isOld = computed(() => !!camera.solved && solvedBy(camera.solved.with) !== solvedBy(camera.settings));
// The picture goes along with the points that are found on it.
watch(
  () => camera.found?.frame,
  (frame) => frame !== undefined && job.value && !playhead.playing && playhead.go(frame),
);
provideCommand(
  'solve-camera',
  () => void camera.solve(),
  () => ready.value && !job.value,
);
const advice = computed(() => (file.value ? adviceOn(file.value) : []));

/** What a camera is solved by; the world is laid over it. */
function solvedBy({ world: _world, ...rest }: CameraSettings): string {
  return JSON.stringify(rest);
}

function leaveOut(id: number, isLeft: boolean): void {
  const others = camera.settings.leftOut.filter((n) => n !== id);
  camera.say({ leftOut: isLeft ? [...others, id] : others });
}
</script>

<template>
  <BenchSection title="Camera" data-test="camera">
    <p v-if="!file && !job" class="dim mb-2">
      Where a device stands still and the camera moves, the whole room tells where the screen is: behind people, dark,
      or beyond the frame.
    </p>
    <label class="d-block"
      >The camera
      <BFormSelect
        :model-value="camera.settings.kind"
        :options="KINDS"
        title="A camera that only turns shows no depth: every point is a direction"
        data-test="camera-kind"
        @update:model-value="camera.say({ kind: $event as CameraSettings['kind'] })"
    /></label>
    <label class="d-block mt-1"
      >Its focal length
      <BFormSelect
        :model-value="known.as"
        :options="KNOWN"
        title="A known focal length makes a short or flat shot surer"
        data-test="camera-known"
        @update:model-value="camera.say({ known: FIRST[$event as CameraSettings['known']['as']] })"
    /></label>
    <div v-if="known.as === 'mm'" class="pair mt-1">
      <NumberField
        :model-value="known.focal"
        :min="1"
        :max="2000"
        aria-label="Focal length, mm"
        title="Focal length, mm"
        data-test="camera-focal"
        @update:model-value="camera.say({ known: { ...known, focal: $event } })"
      />
      <span>mm, on a sensor</span>
      <NumberField
        :model-value="known.sensor"
        :min="1"
        :max="100"
        aria-label="Width of the sensor, mm"
        title="Width of the sensor's part that became the picture, mm"
        data-test="camera-sensor"
        @update:model-value="camera.say({ known: { ...known, sensor: $event } })"
      />
      <span>mm wide</span>
    </div>
    <div v-if="known.as === 'angle'" class="pair mt-1">
      <NumberField
        :model-value="known.degrees"
        :min="1"
        :max="150"
        aria-label="Angle across the picture's width, degrees"
        title="Angle across the picture's width"
        data-test="camera-angle"
        @update:model-value="camera.say({ known: { ...known, degrees: $event } })"
      />
      <span>degrees across the width</span>
    </div>
    <label class="d-block mt-1"
      >Its lens
      <BFormSelect
        :model-value="lensAs"
        :options="LENSES"
        title="A lens that is known, from a chart or from another shot, makes the focal length surer"
        data-test="camera-lens"
        @update:model-value="camera.say({ lens: LENS_OF[String($event)] })"
    /></label>
    <div v-if="lensAs === 'known'" class="pair mt-1">
      <label v-for="term in ['k1', 'k2'] as const" :key="term" class="pair"
        >{{ term }}
        <NumberField
          :model-value="camera.settings.lens![term]"
          :min="-1"
          :max="1"
          :step="0.001"
          :aria-label="`Radial term ${term}, by the half diagonal`"
          :title="`Radial term ${term}, by the half diagonal: negative for barrel`"
          :data-test="`camera-${term}`"
          @update:model-value="camera.say({ lens: { ...camera.settings.lens!, [term]: $event } })"
      /></label>
    </div>
    <fieldset class="mt-1">
      <legend title="Points on these are not used: what walks, and what is carried about">Moves by itself</legend>
      <p v-if="store.screens.length === 0" class="dim mb-1">Nothing is outlined.</p>
      <BFormCheckbox
        v-for="s in store.screens"
        :key="s.id"
        :model-value="camera.settings.leftOut.includes(s.id)"
        title="It is held in a hand, or walks: its points are left out"
        :data-test="`camera-left-out-${s.id}`"
        @update:model-value="leaveOut(s.id, Boolean($event))"
        >{{ s.recipe.name }}</BFormCheckbox
      >
      <BButton
        size="sm"
        variant="outline-secondary"
        title="Outline a person, a hand, another screen on the frame shown: its points are left out on every frame"
        data-test="camera-outline"
        @click="view.tool = { kind: 'draw-patch', patch: 'carried' }"
        >Outline something</BButton
      >
    </fieldset>
    <BButton
      class="w-100 mt-2"
      :variant="file ? 'outline-secondary' : 'primary'"
      :disabled="!isReady('solve-camera')"
      :title="sentenceOf('solve-camera')"
      data-test="camera-solve"
      @click="perform('solve-camera')"
      >{{ file ? 'Solve the camera again' : 'Solve the camera' }}</BButton
    >
    <template v-if="job">
      <BButton
        class="w-100 mt-1"
        variant="outline-secondary"
        title="Leave off; what was solved before stays"
        data-test="camera-stop"
        @click="live.cancel(job.id)"
        ><i class="bi bi-stop-fill" /> Stop</BButton
      >
      <BProgress class="mt-2" :value="job.framesDone" :max="Math.max(1, job.framesTotal)" />
      <p class="dim mb-0" role="status" data-test="camera-progress">
        {{
          isSolving
            ? `Points of ${job.framesTotal} frames are followed; the camera is being solved ...`
            : `Following points: ${job.framesDone} of ${job.framesTotal} frames`
        }}
      </p>
    </template>
    <p v-if="camera.problem" class="weak mt-2 mb-0" role="alert" data-test="camera-problem">{{ camera.problem }}</p>
    <p
      v-else-if="!job && camera.last?.state === 'failed'"
      class="weak mt-2 mb-0"
      role="alert"
      data-test="camera-problem"
    >
      {{ camera.last.message }}
    </p>
    <template v-if="file && !job">
      <p class="mt-2 mb-1" data-test="camera-told">{{ asSentence(camera.solved!.told) }}</p>
      <p v-for="s in file.stopped ?? []" :key="s.frame" class="weak mb-1">{{ asSentence(s.reason) }}</p>
      <p v-for="a in advice" :key="a" class="dim mb-1">{{ a }}</p>
      <p v-if="camera.solved!.isOfOtherPlate" class="weak mb-1" role="alert">
        It is of the plate that this shot had before; solve it again.
      </p>
      <p v-else-if="isOld" class="dim mb-1" data-test="camera-old">Something was changed since; solve it again.</p>
      <p v-if="here" class="mb-1" data-test="camera-here">
        This frame: <span class="mono">{{ here.points }}</span> points to
        <span class="mono">{{ here.error.toFixed(2) }}</span> px.
      </p>
      <p v-else class="weak mb-1">The camera has no place on this frame.</p>
      <CameraPoints />
      <CameraScreen />
      <CameraWorld />
    </template>
  </BenchSection>
</template>

<style scoped>
.pair {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  align-items: center;
}
.pair .form-control {
  width: 5.2rem;
}
.weak {
  color: var(--weak);
}
legend {
  font-size: inherit;
  margin-bottom: 0.1rem;
}
</style>
