import { describe, expect, it } from 'vitest';
import { inRunOrder } from '../src/follow/run-order';

const screen = (name: string, ...ignores: string[]) => ({ recipe: { name, ignores } });
const names = (all: readonly { recipe: { name: string } }[]): string[] => inRunOrder(all).map((s) => s.recipe.name);

describe('Screens that are followed together', () => {
  it('come after what they ignore, and else stay in their order', () => {
    expect(names([screen('tablet', 'hand'), screen('phone'), screen('hand', 'cup'), screen('cup')])).toEqual([
      'cup',
      'hand',
      'tablet',
      'phone',
    ]);
  });
  it('that ignore one another are all there, once', () => {
    expect(names([screen('a', 'b'), screen('b', 'c'), screen('c', 'a')])).toEqual(['c', 'b', 'a']);
  });
  it('do not miss what is not of the shot', () => {
    expect(names([screen('a', 'gone')])).toEqual(['a']);
  });
});
