/** Keys of the chosen Screen's dress as they are moved, copied, deleted and eased: each a step of undo. */
import type { ChosenKey } from '@yarlop/core/dress/base/key-edit';
import { copiedKeys, easedKeys, movedKeys, roomFor, valuedKeys, withoutKeys } from '@yarlop/core/dress/base/key-edit';
import type { Ease } from '@yarlop/core/dress/base/keys';
import { useKeyLane } from '../stores/key-lane';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import type { Recipe } from '../types';

/** What can have keys in a recipe. */
type Root = Pick<Recipe, 'dress' | 'fill'>;

function withRoot(recipe: Recipe, root: Root): Recipe {
  const { dress, fill } = root;
  return { ...recipe, ...(dress ? { dress } : {}), ...(fill ? { fill } : {}) };
}

function made(recipe: Recipe, how: (root: Root) => Root): Recipe {
  const { dress, fill } = recipe;
  return withRoot(recipe, how({ ...(dress ? { dress } : {}), ...(fill ? { fill } : {}) }));
}

/** Where keys lie that went so many frames on, as far as the shot reaches. */
function shifted(keys: readonly ChosenKey[], by: number, last: number): ChosenKey[] {
  const d = roomFor(keys, by, last);
  return keys.map((k) => ({ ...k, frame: k.frame + d }));
}

export function useKeyEdit() {
  const store = useShot();
  const playhead = usePlayhead();
  const lane = useKeyLane();
  const last = (): number => playhead.count - 1;
  function change(name: string, how: (root: Root) => Root): void {
    const s = store.chosen;
    if (s && lane.taken.length > 0) store.edit(name, made(s.recipe, how));
  }
  /** A drag of the keys that are taken: previews while it goes on, one step of undo when it ends. */
  function begin() {
    const s = store.chosen!;
    const before = s.recipe;
    const keys = lane.taken;
    let after = before;
    return {
      /** @param value of the one key that is dragged up and down; null leaves values as they are */
      to(by: number, value: number | null): void {
        after = made(before, (root) => {
          const moved = movedKeys(root, keys, by, last());
          return value === null ? moved : valuedKeys(moved, shifted(keys, by, last()), value);
        });
        store.preview(s.id, after);
        lane.taken = shifted(keys, by, last());
      },
      end(): void {
        if (after !== before) store.edit('Move keys', after, before);
      },
    };
  }

  function move(by: number): void {
    const keys = lane.taken;
    change('Move keys', (root) => movedKeys(root, keys, by, last()));
    lane.taken = shifted(keys, by, last());
  }

  return {
    begin,
    move,
    setValue: (value: number) => change('Set value of key', (root) => valuedKeys(root, lane.taken, value)),
    ease: (ease: Ease) => change('Ease keys', (root) => easedKeys(root, lane.taken, ease)),
    copyHere: () => change('Copy keys', (root) => copiedKeys(root, lane.taken, playhead.frame, last())),
    remove(): void {
      change('Delete keys', (root) => withoutKeys(root, lane.taken));
      lane.taken = [];
    },
  };
}
