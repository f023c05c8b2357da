<script setup lang="ts">
/** How far changes of the settings below reach, and the sections that came of it. */
import { computed } from 'vue';
import { joined, trimmed, withSettings } from '@yarlop/core/follow/outline/section-list';
import { sentenceOf } from '../commands/catalogue';
import { isReady, perform, provideCommand } from '../commands/use-commands';
import BenchSection from '../bench/BenchSection.vue';
import NumberField from '../shared/NumberField.vue';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useRecipe } from '../edits/use-recipe';
import { useFollowRuns } from './use-follow-runs';
import type { Reach, Section } from '../edits/use-ways';
import { useWays, withSections } from '../edits/use-ways';
import { wordsOf } from './section-words';

const playhead = usePlayhead();
const store = useShot();
const { track, job } = useRecipe();
const { problem, start, around } = useFollowRuns();
const { recipe, sections, section, span, reach } = useWays();
const REACHES = computed((): { value: Reach; text: string; disabled?: boolean }[] => [
  { value: 'on', text: 'from here on' },
  { value: 'range', text: 'in the working range' },
  { value: 'section', text: 'in this section', disabled: !section.value },
  { value: 'shot', text: 'in the whole shot' },
]);
const holds = computed(() => (span.value ? `frames ${span.value.from} to ${span.value.to}` : 'the whole shot'));

const put = (name: string, list: readonly Section[]): void => store.edit(name, withSections(recipe.value!, list));
function trim(i: number, ends: Partial<Section>): void {
  put('Trim section', trimmed(sections.value, i, { ...sections.value[i]!, ...ends }));
}

/** Frames of the working range that were followed once, and not on the steadied plate yet. */
const steadied = computed(() => {
  const all = [...(track.value?.frames.keys() ?? [])].filter((n) => n >= playhead.from && n <= playhead.to);
  return all.length > 1 ? { from: Math.min(...all), to: Math.max(...all) } : null;
});
/** What was followed holds the plate still; what is left is followed with a screen's full freedom. */
function followSteadied(): void {
  const list = withSettings<Section>(sections.value, steadied.value!, ({ over, from: _from, to: _to, ...now }) => ({
    ...now,
    motion: 'perspective',
    over: over ?? now,
  }));
  put('Follow on the steadied plate', list);
  void start({ ...around(recipe.value!.referenceFrame), direction: 'both' });
}
provideCommand('follow-steadied', followSteadied, () => !job.value && steadied.value !== null);
</script>

<template>
  <BenchSection v-if="recipe" title="Sections">
    <template #note>{{ holds }}</template>
    <label class="d-flex gap-2 align-items-center text-nowrap"
      >Changes hold
      <BFormSelect
        v-model="reach"
        :options="REACHES"
        title="How far a change of outlines or of how it is followed reaches; frames beyond keep what they have"
        data-test="reach"
    /></label>
    <ul v-if="sections.length > 0" class="sections">
      <li v-for="(s, i) in sections" :key="i" :class="{ here: s === section }" :data-test="`section-${i}`">
        <NumberField
          :model-value="s.from"
          whole
          :min="0"
          :max="s.to"
          :aria-label="`First frame of section ${i + 1}`"
          title="The section's first frame"
          :data-test="`section-from-${i}`"
          @update:model-value="trim(i, { from: $event })"
        />
        <NumberField
          :model-value="s.to"
          whole
          :min="s.from"
          :max="playhead.count - 1"
          :aria-label="`Last frame of section ${i + 1}`"
          title="The section's last frame"
          :data-test="`section-to-${i}`"
          @update:model-value="trim(i, { to: $event })"
        />
        <button type="button" class="words" title="Go to the section's first frame" @click="playhead.go(s.from)">
          {{ wordsOf(s) }}
        </button>
        <BButton
          v-if="i + 1 < sections.length"
          variant="link"
          size="sm"
          title="Join with the next section: this one's settings hold up to its end"
          :aria-label="`Join section ${i + 1} with the next one`"
          :data-test="`section-join-${i}`"
          @click="put('Join sections', joined(sections, i))"
          ><i class="bi bi-union"
        /></BButton>
        <BButton
          variant="link"
          size="sm"
          title="Remove this section: its frames go back to the Screen's own settings, and to what was followed with them"
          :aria-label="`Remove section ${i + 1}`"
          :data-test="`section-remove-${i}`"
          @click="
            put(
              'Remove section',
              sections.filter((_, k) => k !== i),
            )
          "
          ><i class="bi bi-trash3"
        /></BButton>
      </li>
    </ul>
    <BButton
      class="w-100 mt-1"
      variant="outline-secondary"
      :disabled="!isReady('follow-steadied')"
      :title="sentenceOf('follow-steadied')"
      data-test="follow-steadied"
      @click="perform('follow-steadied')"
      >Follow again on the steadied plate</BButton
    >
    <p v-if="problem" class="weak mt-1 mb-0" role="alert">{{ problem }}</p>
  </BenchSection>
</template>

<style scoped>
.sections {
  list-style: none;
  padding: 0;
  margin: 0.4rem 0 0;
}
.sections li {
  display: flex;
  gap: 0.3rem;
  align-items: center;
  padding: 0.1rem 0 0.1rem 0.35rem;
  border-left: 2px solid transparent;
}
.sections li.here {
  border-left-color: var(--brass);
}
.sections input {
  width: 4.6rem;
}
.words {
  flex: 1;
  background: none;
  border: 0;
  padding: 0;
  color: inherit;
  text-align: left;
}
.weak {
  color: var(--weak);
}
</style>
