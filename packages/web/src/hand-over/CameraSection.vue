<script setup lang="ts">
/** The camera of the whole scene in open formats. */
import { computed, ref } from 'vue';
import { useStorage } from '@vueuse/core';
import { CAMERA_EXPORTS } from '@yarlop/core/formats/camera-formats';
import { reach, sentence } from '../api';
import BenchSection from '../bench/BenchSection.vue';
import { useCamera } from '../stores/camera';
import { useShot } from '../stores/shot';

const camera = useCamera();
const store = useShot();
const as = useStorage<(typeof CAMERA_EXPORTS)[number]['id']>('yarlop.camera-format', 'gltf');
const isPlateBehind = useStorage('yarlop.camera-plate', false);
const problem = ref('');
const chosen = computed(() => CAMERA_EXPORTS.find((f) => f.id === as.value) ?? CAMERA_EXPORTS[0]!);
const holdsPictures = computed(() => 'holdsPictures' in chosen.value && chosen.value.holdsPictures);
const options = CAMERA_EXPORTS.map((f) => ({ value: f.id, text: f.name }));
const address = computed(
  () =>
    `/api/shots/${store.shot?.id}/camera/${chosen.value.id}${holdsPictures.value && isPlateBehind.value ? '?plate=1' : ''}`,
);

/** Fetched first, so that what is wrong is said here and not saved as a file. */
async function save(): Promise<void> {
  problem.value = '';
  try {
    const response = await reach(address.value);
    if (!response.ok) throw new Error(((await response.json()) as { message: string }).message);
    const name = /filename="?([^";]+)"?/.exec(response.headers.get('content-disposition') ?? '')?.[1];
    const url = URL.createObjectURL(await response.blob());
    const link = Object.assign(document.createElement('a'), { href: url, download: name ?? 'camera' });
    link.click();
    URL.revokeObjectURL(url);
  } catch (e) {
    problem.value = sentence(e);
  }
}
</script>

<template>
  <BenchSection title="Scene camera">
    <p v-if="!camera.solved" class="dim mb-0" data-test="no-camera">
      Not solved yet. Follow, under Camera, finds where the camera stands on every frame.
    </p>
    <template v-else>
      <BFormSelect v-model="as" :options="options" aria-label="Format of the camera" data-test="camera-format" />
      <p class="dim mb-1 mt-1">{{ chosen.what }}.</p>
      <BFormCheckbox
        v-if="holdsPictures"
        v-model="isPlateBehind"
        title="Small pictures of the plate hang before the camera, one after the other"
        data-test="camera-plate"
        >with the plate behind</BFormCheckbox
      >
      <BButton
        class="mt-1"
        variant="outline-secondary"
        title="Save the camera as a file, set into the world that was chosen under Camera in Follow"
        data-test="save-camera"
        @click="save"
        ><i class="bi bi-download" aria-hidden="true" /> Save the camera</BButton
      >
      <p v-if="problem" class="weak mt-1 mb-0" role="alert" data-test="camera-file-problem">{{ problem }}</p>
    </template>
  </BenchSection>
</template>

<style scoped>
.weak {
  color: var(--weak);
}
</style>
