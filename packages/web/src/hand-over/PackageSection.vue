<script setup lang="ts">
/** Everything that is chosen, in one zip with checksums and a text that explains it. */
import { useStorage } from '@vueuse/core';
import BenchSection from '../bench/BenchSection.vue';
import type { DeliverSettings } from '../types';
import { DATA } from './formats';
import { useConventions } from './use-conventions';
import { useDeliveries } from './use-deliveries';

const { deliver } = useDeliveries();
const { conventions } = useConventions();
const parts = useStorage<NonNullable<DeliverSettings['parts']>[number][]>('yarlop.package', [
  'csv',
  'json',
  'homography-csv',
  'opencv-yaml',
  'gltf',
  'css',
  'otio',
  'report',
]);
</script>

<template>
  <BenchSection title="Package">
    <details>
      <summary title="What the package holds">
        {{ parts.length }} {{ parts.length === 1 ? 'part' : 'parts' }} in one zip, with checksums
      </summary>
      <BFormCheckboxGroup v-model="parts" class="parts"
        ><template v-for="g in DATA" :key="g.label"
          ><BFormCheckbox v-for="c in g.choices" :key="c.value" :value="c.value" :title="c.what"
            >{{ g.label }}: {{ c.text }}</BFormCheckbox
          ></template
        ></BFormCheckboxGroup
      >
    </details>
    <BButton
      class="mt-1"
      variant="outline-secondary"
      :disabled="parts.length === 0"
      title="Write the package"
      data-test="deliver-package"
      @click="deliver({ as: 'package', parts, ...conventions })"
      >Deliver</BButton
    >
    <p class="dim mb-1 mt-2">
      The shot as a template: plate, Screens with what was followed, dress and fills, to be brought in on the shot board
      of another Yarlop.
    </p>
    <BButton
      variant="outline-secondary"
      title="One zip with the originals; as large as they are"
      data-test="deliver-template"
      @click="deliver({ as: 'template' })"
      >Deliver the template</BButton
    >
  </BenchSection>
</template>

<style scoped>
summary {
  color: var(--text-dim);
}
.parts {
  display: flex;
  flex-direction: column;
  font-size: 0.8125rem;
}
</style>
