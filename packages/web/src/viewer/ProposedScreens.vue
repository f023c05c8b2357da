<script setup lang="ts">
/** Names the screens that are seen on a shot without any, for the person to take one or none. */
import { sentenceOf } from '../commands/catalogue';
import { DEVICE_ICON } from '../shared/screen-look';
import type { useProposals } from './use-proposals';

const props = defineProps<{ proposals: ReturnType<typeof useProposals> }>();
const { list, lit, take, pass } = props.proposals;
</script>

<template>
  <div class="proposed" role="group" aria-label="Screens that are seen here" data-test="proposals">
    <span>Seen here:</span>
    <BButton
      v-for="(p, i) in list"
      :key="i"
      :variant="lit === i ? 'primary' : 'outline-secondary'"
      size="sm"
      :title="i === lit ? sentenceOf('take-proposal') : 'Make a Screen of this outline'"
      :data-test="`proposal-${i + 1}`"
      @mouseenter="lit = i"
      @focus="lit = i"
      @click="take(i)"
      ><i class="bi me-1" :class="DEVICE_ICON[p.device]" aria-hidden="true" />{{ i + 1 }} {{ p.kind }} {{ p.device }}
      <kbd v-if="lit === i">Shift+N</kbd></BButton
    >
    <BButton
      variant="link"
      size="sm"
      class="p-0"
      title="Nothing is changed; drop four corners with N"
      data-test="proposals-pass"
      @click="pass"
      >None of these</BButton
    >
  </div>
</template>

<style scoped>
.proposed {
  position: absolute;
  left: 8px;
  bottom: 42px;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem;
  padding: 0.35rem 0.8rem;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: color-mix(in srgb, var(--ink) 92%, transparent);
  z-index: 2;
}
</style>
