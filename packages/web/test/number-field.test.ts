// @vitest-environment happy-dom
/** The one field in which numbers are typed. */
import { mount } from '@vue/test-utils';
import type { VueWrapper } from '@vue/test-utils';
import { describe, expect, it } from 'vitest';
import { nextTick } from 'vue';
import NumberField from '../src/shared/NumberField.vue';

/** A field whose parent keeps what it is told, as `v-model` does. */
function field(modelValue: number | null, props: Record<string, unknown> = {}): VueWrapper {
  const wrapper: VueWrapper = mount(NumberField, {
    props: {
      modelValue,
      ...props,
      'onUpdate:modelValue': (v: number | null) => void wrapper.setProps({ modelValue: v }),
    },
  }) as unknown as VueWrapper;
  return wrapper;
}
const shown = (w: VueWrapper): string => (w.element as HTMLInputElement).value;
const told = (w: VueWrapper): unknown[] => (w.emitted('update:modelValue') ?? []).map(([v]) => v);
async function type(w: VueWrapper, text: string): Promise<void> {
  const input = w.element as HTMLInputElement;
  input.value = text;
  await w.trigger('change');
  await nextTick();
}

describe('a field for a number', () => {
  it('tells what was typed once it is left, and not on every key', async () => {
    const w = field(3);
    (w.element as HTMLInputElement).value = '12';
    await w.trigger('input');
    expect(told(w)).toEqual([]);
    await w.trigger('change');
    expect(told(w)).toEqual([12]);
  });

  it('brings it within its limits, and shows what was taken', async () => {
    const w = field(3, { min: 0, max: 20 });
    await type(w, '400');
    await type(w, '-2');
    expect(told(w)).toEqual([20, 0]);
    expect(shown(w)).toBe('0');
  });

  it('shows the limit again where it stood on it already', async () => {
    const w = field(20, { max: 20 });
    await type(w, '21');
    expect(shown(w)).toBe('20');
  });

  it('rounds what must be whole', async () => {
    const w = field(3, { whole: true });
    await type(w, '7.6');
    expect(told(w)).toEqual([8]);
    expect(shown(w)).toBe('8');
  });

  it('takes an emptied field for no number: what stood there comes back', async () => {
    const w = field(640.25, { decimals: 2 });
    await type(w, '');
    expect(told(w)).toEqual([]);
    expect(shown(w)).toBe('640.25');
  });

  it('takes an emptied field for none where none may be given', async () => {
    const w = field(180, { optional: true, placeholder: '172' });
    await type(w, '');
    expect(told(w)).toEqual([null]);
    expect(shown(w)).toBe('');
    expect(w.attributes('placeholder')).toBe('172');
  });

  it('does not round a number that was shown with fewer decimals and left alone', async () => {
    const w = field(640.254_87, { decimals: 2 });
    expect(shown(w)).toBe('640.25');
    await w.trigger('change');
    expect(told(w)).toEqual([]);
  });

  it('puts back what stood there on Escape', async () => {
    const w = field(5);
    (w.element as HTMLInputElement).value = '99';
    await w.trigger('keydown', { key: 'Escape' });
    expect(shown(w)).toBe('5');
    await w.trigger('change');
    expect(told(w)).toEqual([]);
  });

  it('shows a number that was changed elsewhere', async () => {
    const w = field(5);
    await w.setProps({ modelValue: 6 });
    expect(shown(w)).toBe('6');
  });
});
