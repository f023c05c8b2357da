/** A list of a dress that works in its order: its things changed, muted, moved and taken away, each one step of undo. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import type { ComputedRef } from 'vue';
import { computed } from 'vue';
import { useOutlineChoice } from '../stores/outline-choice';
import { movedInList } from './moved-in-list';
import { useDress } from './use-dress';

type Lists = Pick<Required<DressRecipe>, 'holdouts' | 'retouches'>;
/** What one thing of each list is called. */
const CALLED = { holdouts: 'Holdout', retouches: 'Retouch' } as const;

/** Members that are undefined go. */
function without<T extends object>(thing: T): T {
  return Object.fromEntries(Object.entries(thing).filter(([, v]) => v !== undefined)) as T;
}

export function useDressList<P extends keyof Lists>(part: P) {
  type Thing = Lists[P][number];
  const { dress, put } = useDress();
  const choice = useOutlineChoice();
  const list = computed(() => dress.value[part] ?? []) as ComputedRef<readonly Thing[]>;
  const what = CALLED[part].toLowerCase();

  /** @param change members; undefined takes one out @param final false while it is being dragged */
  function change(i: number, members: object, name: string, final = true): void {
    const next = list.value.map((t, k) => (k === i ? without({ ...t, ...members }) : t));
    put(name, part, next, final);
  }
  function add(thing: Thing): void {
    put(`Add ${what}`, part, [...list.value, thing]);
  }
  function move(i: number, by: 1 | -1): void {
    put(`Order ${part}`, part, movedInList(list.value, i, by));
    if (choice.isChosen(part, i)) choice.choose({ part, index: i + by });
  }
  function remove(i: number): void {
    choice.choose(null);
    put(
      `Delete ${what}`,
      part,
      list.value.filter((_, k) => k !== i),
    );
  }
  /** What the head of a thing shows. */
  const row = (i: number) => ({
    name: `${CALLED[part]} ${i + 1}`,
    chosen: choice.isChosen(part, i),
    off: list.value[i]!.off ?? false,
    isFirst: i === 0,
    isLast: i === list.value.length - 1,
  });
  /** What the head of a thing does. */
  const on = (i: number) => ({
    choose: () => choice.choose({ part, index: i }),
    mute: () => {
      const { off } = list.value[i]!;
      change(i, { off: off ? undefined : true }, off ? `Use ${what}` : `Mute ${what}`);
    },
    move: (by: 1 | -1) => move(i, by),
    remove: () => remove(i),
  });
  return { list, change, add, row, on };
}
