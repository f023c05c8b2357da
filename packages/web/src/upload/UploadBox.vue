<script setup lang="ts">
import { computed } from 'vue';
import { useFileDialog } from '@vueuse/core';
import { bytesText } from '../shared/format';
import { groupFiles } from './group-files';
import { usePageDrop } from './use-page-drop';
import type { Finished } from './use-upload';
import { useUpload } from './use-upload';

const props = defineProps<{ prompt: string; done: (f: Finished) => Promise<void> }>();
const emit = defineEmits<{ begun: [] }>();
const u = useUpload((f) => props.done(f));
function take(files: readonly File[] | FileList | null): void {
  const groups = groupFiles([...(files ?? [])]);
  if (groups.length === 0) return;
  emit('begun');
  u.send(groups);
}
const isOver = usePageDrop(take);
const { open, onChange } = useFileDialog({ multiple: true, reset: true });
onChange(take);
const folder = useFileDialog({ directory: true, reset: true });
folder.onChange(take);
/** More is to come, or something is to be read. */
const isNeeded = computed(() => u.waiting.value.length > 0 || u.problem.value !== '');
defineExpose({ open, isNeeded });
</script>

<template>
  <div class="zone" :class="{ over: isOver }" data-test="upload">
    <Teleport to="body"
      ><div v-if="isOver" class="page-drop" data-test="page-drop"><span>Let go to bring it in</span></div></Teleport
    >
    <template v-if="u.state.value === 'idle'">
      <p class="mb-2">{{ prompt }}</p>
      <div class="d-flex flex-wrap gap-1 justify-content-center">
        <BButton
          variant="outline-secondary"
          title="Clips and pictures; all pictures of a numbered sequence at once are one clip"
          data-test="choose-files"
          @click="open()"
          >Choose files ...</BButton
        >
        <BButton
          variant="outline-secondary"
          title="Every clip, picture and sequence of a folder and of those in it"
          data-test="choose-folder"
          @click="folder.open()"
          >A folder ...</BButton
        >
      </div>
      <p class="dim mt-2 mb-0">
        Video files, pictures and folders, dropped anywhere on the page; numbered pictures of one name are one clip.
      </p>
    </template>
    <template v-else>
      <p class="mb-1" role="status">
        {{ { sending: 'Sending', paused: 'Paused', taking: 'Checking what arrived' }[u.state.value] }}
        <span class="mono">{{ bytesText(u.sent.value) }} of {{ bytesText(u.total.value) }}</span
        ><span v-if="u.waiting.value.length > 0" class="dim">, {{ u.waiting.value.length }} more to come</span>
      </p>
      <BProgress :value="u.share.value" :max="1" />
      <div class="d-flex gap-1 mt-2 justify-content-center">
        <BButton
          v-if="u.state.value === 'sending'"
          variant="outline-secondary"
          title="Stop sending for now; what arrived is kept"
          data-test="pause"
          @click="u.pause()"
          >Pause</BButton
        >
        <BButton
          v-if="u.state.value === 'paused'"
          variant="outline-secondary"
          title="Go on from what arrived"
          data-test="resume"
          @click="u.go()"
          >Go on</BButton
        >
        <BButton
          v-if="u.state.value !== 'taking'"
          variant="outline-secondary"
          title="Leave the file out"
          data-test="cancel-upload"
          @click="u.cancel()"
          >Cancel</BButton
        >
      </div>
    </template>
    <p v-if="u.problem.value" class="weak mt-2 mb-0" role="alert" data-test="upload-problem">{{ u.problem.value }}</p>
  </div>
</template>

<style scoped>
.zone {
  border: 1.5px dashed var(--line);
  border-radius: 4px;
  padding: 1rem;
  text-align: center;
}
.zone.over {
  border-color: var(--brass);
  background: color-mix(in srgb, var(--brass) 10%, transparent);
}
.weak {
  color: var(--weak);
}
.page-drop {
  position: fixed;
  inset: 0;
  z-index: 2000;
  display: grid;
  place-items: center;
  pointer-events: none;
  border: 3px dashed var(--brass);
  background: color-mix(in srgb, var(--ink) 70%, transparent);
}
.page-drop span {
  background: var(--ink-raised);
  border: 1px solid var(--brass);
  border-radius: 4px;
  padding: 0.6rem 1.2rem;
  font-size: 1.1rem;
}
</style>
