import type { ScreenFile } from '@yarlop/contracts/validate';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { changesPlate } from '@yarlop/core/dress/layer/recipe';
import type { Context } from '../context';
import type { FoundFill, FoundMedia } from '../found-fill';
import type { MediaRow } from '../rows';
import * as tables from '../sql/colour-tables';
import * as media from '../sql/media';

/** Nothing is in the slot, but the plate is changed. */
const NOTHING: FoundFill = { media: null, foreground: null, layers: [], table: null };

/** @returns null where the slot is empty, or what it names does not exist any more, and nothing is done to the plate */
export async function fillOf(c: Context, { fill, dress }: ScreenFile): Promise<FoundFill | null> {
  const find = async (hash: string | undefined): Promise<FoundMedia | null> => {
    const row = hash === undefined ? undefined : await c.db.one<MediaRow>(media.findMedia, [hash]);
    return row ? { media: row, original: c.storage.original(row.hash) } : null;
  };
  const layersOf = async ({ made }: NonNullable<ScreenFile['fill']>): Promise<FoundFill['layers']> =>
    Promise.all((made?.layers ?? []).map((l) => find(l.kind === 'picture' ? l.media : undefined)));
  const isRetouched = changesPlate((dress ?? {}) as DressRecipe);
  if (!fill) return isRetouched ? NOTHING : null;
  const found: FoundFill = {
    media: await find(fill.media),
    foreground: await find(fill.made?.foreground?.media),
    layers: await layersOf(fill),
    table:
      fill.table === undefined
        ? null
        : ((await c.db.one<{ body: string }>(tables.findTable, [fill.table]))?.body ?? null),
  };
  return found.media || fill.made || isRetouched ? found : null;
}
