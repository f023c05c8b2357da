<script setup lang="ts" generic="T extends number | null">
/**
 * A number that is typed. It is taken on Enter or when the field is left, brought within its limits; what is no number
 * gives way to what stood there, and so does what was typed before Escape. An empty field is no number, except where none
 * may be given: then it is null.
 */
import { computed, nextTick, useTemplateRef } from 'vue';
import { clamp } from '@yarlop/core/clamp';

const props = defineProps<{
  modelValue: T;
  min?: number | undefined;
  max?: number | undefined;
  step?: number | undefined;
  /** whole numbers alone */
  whole?: boolean;
  /** none may be given: the placeholder says what is taken then */
  optional?: boolean;
  /** decimals that are shown; as many as there are, if none are said */
  decimals?: number | undefined;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: T] }>();
const input = useTemplateRef<HTMLInputElement>('input');
const shown = computed((): string => {
  if (typeof props.modelValue !== 'number') return '';
  return props.decimals === undefined ? String(props.modelValue) : props.modelValue.toFixed(props.decimals);
});

function within(v: number): number {
  return clamp(props.whole ? Math.round(v) : v, props.min ?? -Infinity, props.max ?? Infinity);
}

function putBack(): void {
  input.value!.value = shown.value;
}

function take(): void {
  const { value, validity } = input.value!;
  if (value === shown.value && !validity.badInput) return;
  const isNone = value === '' && !validity.badInput;
  if (isNone && props.optional) return emit('update:modelValue', null as T);
  const v = isNone ? NaN : Number.parseFloat(value);
  if (Number.isFinite(v)) emit('update:modelValue', within(v) as T);
  // What came of it may be what stood there before: the field is not drawn anew then.
  void nextTick(putBack);
}
</script>

<template>
  <input
    ref="input"
    class="form-control mono"
    type="number"
    :min="min"
    :max="max"
    :step="step ?? (whole ? 1 : 'any')"
    :value="shown"
    @change="take"
    @keydown.esc="putBack"
  />
</template>
