/** A shot as a template for another installation: Screens, what was followed, and everything that they name. */
import type { TemplateFile } from '@yarlop/contracts/validate';
import type { Context } from '../context';
import type { FrameRow, MediaRow, ScreenRow, ShotRow } from '../rows';
import * as tables from '../sql/colour-tables';
import * as media from '../sql/media';
import * as solves from '../sql/solves';
import type { DeliverTask } from '../worker-protocol';
import { currentSolve } from './solve';

async function screenOf(c: Context, screen: ScreenRow, mediaHash: string): Promise<TemplateFile['screens'][number]> {
  const current = await currentSolve(c, screen, mediaHash);
  if (!current) return { recipe: { ...screen.recipe }, solve: null };
  const { identity, pin, referenceFrame, forwards, backwards, id } = current.solve;
  return {
    recipe: { ...screen.recipe },
    solve: {
      identity,
      pin: pin as never,
      referenceFrame,
      forwards: forwards as never,
      backwards: backwards as never,
      frames: (await c.db.all<FrameRow>(solves.wholeFrames, [id])) as never,
    },
  };
}

export async function templateOf(
  c: Context,
  shot: ShotRow,
  recipes: readonly Omit<ScreenRow, 'shotId'>[],
): Promise<NonNullable<DeliverTask['template']>> {
  const named = recipes
    .flatMap(({ recipe: { fill } }) => [fill?.media, fill?.made?.foreground?.media])
    .filter((h) => h !== undefined);
  const hashes = [...new Set([shot.mediaHash, ...named])];
  const rows = (await Promise.all(hashes.map((h) => c.db.one<MediaRow>(media.findMedia, [h])))).filter(
    (r) => r !== null,
  );
  const wanted = [...new Set(recipes.flatMap(({ recipe }) => recipe.fill?.table ?? []))];
  const file = {
    format: 'yarlop-template',
    version: 1,
    shot: { name: shot.name, range: [shot.rangeFrom, shot.rangeTo], ...(shot.colour ? { colour: shot.colour } : {}) },
    plate: shot.mediaHash,
    media: rows.map(({ hash, name, source }) => ({
      hash,
      name,
      files: [...source.files],
      firstNumber: source.firstNumber,
    })),
    tables: (
      await Promise.all(
        wanted.map((h) => c.db.one<{ hash: string; name: string; body: string }>(tables.findTable, [h])),
      )
    ).filter((t) => t !== null),
    screens: await Promise.all(recipes.map((r) => screenOf(c, { ...r, shotId: shot.id }, shot.mediaHash))),
  } as unknown as TemplateFile;
  return { file, originals: rows.map(({ hash }) => ({ hash, folder: c.storage.original(hash) })) };
}
