<script setup lang="ts">
/** Sections of the chosen Screen over the strip's axis: dragged by an end they are trimmed, by their middle moved. */
import { computed } from 'vue';
import type { FrameSpan } from '@yarlop/core/frame-ranges';
import { joined, trimmed } from '@yarlop/core/follow/outline/section-list';
import { clamp } from '@yarlop/core/clamp';
import { wordsOf } from '../follow/section-words';
import { withSections } from '../edits/use-ways';
import { holdPointer } from '../shared/hold-pointer';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';

/** `x`: px at which a frame begins; `per`: frames a px. */
const props = defineProps<{ x: (frame: number) => number; per: number }>();
const store = useShot();
const playhead = usePlayhead();
const sections = computed(() => store.chosen?.recipe.sections ?? []);

function put(name: string, list: typeof sections.value): void {
  const s = store.chosen;
  if (s) store.edit(name, withSections(s.recipe, list));
}
/** Delete removes the section that has the focus, J joins it with the next one. */
function press(e: KeyboardEvent, i: number): void {
  const isJoin = e.key === 'j' && i + 1 < sections.value.length;
  if (e.key !== 'Delete' && !isJoin) return;
  e.preventDefault();
  e.stopPropagation();
  if (isJoin) put('Join sections', joined(sections.value, i));
  else
    put(
      'Remove section',
      sections.value.filter((_, k) => k !== i),
    );
}

type End = 'from' | 'to' | 'both';
function dragged({ from, to }: FrameSpan, end: End, by: number): FrameSpan {
  const last = playhead.count - 1;
  if (end === 'from') return { from: clamp(from + by, 0, to), to };
  if (end === 'to') return { from, to: clamp(to + by, from, last) };
  const d = clamp(by, -from, last - to);
  return { from: from + d, to: to + d };
}
function drag(e: PointerEvent, i: number, end: End): void {
  const s = store.chosen;
  if (!s || e.button !== 0) return;
  const before = s.recipe;
  const list = sections.value;
  let after = before;
  holdPointer(
    e,
    e.target as Element,
    (m) => {
      const by = Math.round((m.clientX - e.clientX) * props.per);
      after = withSections(before, trimmed(list, i, dragged(list[i]!, end, by)));
      store.preview(s.id, after);
    },
    () => {
      if (after !== before) store.edit(end === 'both' ? 'Move section' : 'Trim section', after, before);
      else playhead.go(list[i]!.from);
    },
  );
}
</script>

<template>
  <div class="lane" data-test="section-lane">
    <span
      v-for="(s, i) in sections"
      :key="i"
      class="block"
      :class="{ steadied: s.over }"
      :style="{ left: `${x(s.from)}px`, width: `${Math.max(3, x(s.to + 1) - x(s.from))}px` }"
      :title="`Frames ${s.from} to ${s.to}: ${wordsOf(s)}. Drag to move it, drag its ends to trim it; J joins it with the next, Delete removes it`"
      :data-test="`section-block-${i}`"
      tabindex="0"
      role="group"
      :aria-label="`Section of the frames ${s.from} to ${s.to}`"
      @keydown="press($event, i)"
      @pointerdown.stop="drag($event, i, 'both')"
    >
      <i class="end" data-test="section-end-from" @pointerdown.stop="drag($event, i, 'from')" />
      <span class="words">{{ wordsOf(s) }}</span>
      <i class="end" data-test="section-end-to" @pointerdown.stop="drag($event, i, 'to')" />
    </span>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
  height: 18px;
  border-top: 1px solid var(--line);
}
.block {
  position: absolute;
  top: 2px;
  height: 14px;
  display: flex;
  border: 1px solid var(--text-dim);
  border-radius: 2px;
  background: var(--ink-raised);
  cursor: grab;
  font-size: 0.6875rem;
  line-height: 12px;
}
.steadied {
  border-style: double;
  border-width: 1px 3px;
}
.words {
  flex: 1;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  padding: 0 2px;
  pointer-events: none;
}
.end {
  flex: 0 0 5px;
  cursor: ew-resize;
}
.end:hover {
  background: var(--brass);
}
</style>
