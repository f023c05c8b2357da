/** A shot as a template for another installation: Screens, what was followed, and everything that they name. */
import type { ScreenFile, TemplateFile } from '@yarlop/contracts/validate';
import type { Context } from '../context';
import type { FrameRow, MediaRow, MemoryRow, ScreenRow, ShotRow } from '../rows';
import * as tables from '../sql/colour-tables';
import * as media from '../sql/media';
import * as solves from '../sql/solves';
import type { DeliverTask } from '../worker-protocol';
import type { SolvedWay } from './parts';
import { filesOfFill } from './fill-files';
import { listOf, solvesOf, usedBy } from './parts';

type Solved = NonNullable<TemplateFile['screens'][number]['solve']>;

async function contentOf(c: Context, { identity, solve }: Pick<SolvedWay, 'identity' | 'solve'>): Promise<Solved> {
  const { id, screenId, pin, referenceFrame, lens } = solve;
  const [memory] = await c.db.all<MemoryRow>(solves.memoriesOf, [screenId, listOf([id])]);
  return {
    identity,
    pin: pin as never,
    referenceFrame,
    lens,
    forwards: (memory?.forwards ?? null) as never,
    backwards: (memory?.backwards ?? null) as never,
    frames: (await c.db.all<FrameRow>(solves.wholeFrames, [id])) as never,
  };
}

/** A recipe that shows what it shows, but no document: that one stays in this installation. */
function ofItsOwn({ ...recipe }: ScreenFile): TemplateFile['screens'][number]['recipe'] {
  if (!recipe.fill?.content) return { ...recipe };
  const { content: _content, ...fill } = recipe.fill;
  return { ...recipe, fill };
}

async function screenOf(c: Context, screen: ScreenRow, mediaHash: string): Promise<TemplateFile['screens'][number]> {
  const own = await solvesOf(c, screen, mediaHash);
  // What was followed otherwise than the recipe says goes along, as long as nothing newer was.
  const before = own.main ? [] : own.all.slice(0, 1).map((solve) => ({ solve, identity: solve.identity }));
  const ways = [...usedBy(own), ...before];
  const main = ways.find((w) => w.solve.id === own.main?.id) ?? ways[0];
  if (!main) return { recipe: ofItsOwn(screen.recipe), solve: null };
  const more = await Promise.all(ways.filter((w) => w !== main).map((w) => contentOf(c, w)));
  return {
    recipe: ofItsOwn(screen.recipe),
    solve: await contentOf(c, main),
    ...(more.length > 0 ? { sections: more } : {}),
  };
}

export async function templateOf(
  c: Context,
  shot: ShotRow,
  recipes: readonly Omit<ScreenRow, 'shotId'>[],
): Promise<NonNullable<DeliverTask['template']>> {
  const named = recipes.flatMap(({ recipe: { fill } }) => filesOfFill(fill));
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
