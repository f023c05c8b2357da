/**
 * What a template's own file says, and the shot that it makes: read and written in threads of their own, since it may
 * have as much as {@link LARGEST_TEMPLATE}.
 */
import { readFile, stat } from 'node:fs/promises';
import type { TemplateFile } from '@yarlop/contracts/validate';
import { checkTemplate } from '@yarlop/contracts/validate';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { Executor } from '../database';
import type { TemplateMedia } from '../readers';
import type { MediaRow } from '../rows';
import * as media from '../sql/media';
import * as screens from '../sql/screens';
import * as shots from '../sql/shots';
import * as solves from '../sql/solves';
import { frameValues } from './frame-values';
import { tableHash, takeTable } from './take-table';

/** Bytes of a template's own file, which is read whole; one of 2,000 frames has some 5 MB. */
const LARGEST_TEMPLATE = 64 * 2 ** 20;

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new ApiError(422, 'unusable', 'The template is damaged: it is no JSON.');
  }
}

/** The template as its file tells it. @throws ApiError 422 where it is none, or larger than any that Yarlop writes */
async function readTemplate(path: string): Promise<TemplateFile> {
  const info = await stat(path).catch(() => null);
  if (!info)
    throw new ApiError(
      422,
      'invalid',
      'The package holds no template; deliver one as "Template" from the stage Hand over.',
    );
  if (info.size > LARGEST_TEMPLATE)
    throw new ApiError(
      422,
      'too-large',
      `The template is ${Math.ceil(info.size / 2 ** 20)} MB without its media; at most ${LARGEST_TEMPLATE / 2 ** 20} MB are taken.`,
    );
  return checkTemplate(parse(await readFile(path, 'utf8')));
}

async function putSolve(
  db: Executor,
  screenId: number,
  solve: NonNullable<TemplateFile['screens'][number]['solve']>,
): Promise<void> {
  const { identity, pin, referenceFrame, lens = null, frames } = solve;
  const { insertId } = await db.run(solves.insertSolve, [
    screenId,
    identity,
    JSON.stringify(pin),
    referenceFrame,
    lens,
  ]);
  for (const side of ['forwards', 'backwards'] as const)
    if (solve[side]) await db.run(solves.checkpoint[side], [JSON.stringify(solve[side]), insertId]);
  for (const f of frames) await db.run(solves.putFrame, frameValues(insertId, f));
}

/** All or nothing of the shot; media that were taken stay in the library. */
async function makeShot(
  c: Pick<Context, 'db'>,
  productionId: number,
  t: TemplateFile,
  plate: MediaRow,
): Promise<number> {
  const [from, to] = [
    Math.min(t.shot.range[0]!, plate.frameCount - 1),
    Math.min(t.shot.range[1]!, plate.frameCount - 1),
  ];
  const recipes = t.screens.map((s) => parseScreen(s.recipe));
  return c.db.transaction(async (db) => {
    const { insertId: shot } = await db.run(shots.insertShot, [
      productionId,
      t.shot.name,
      plate.hash,
      plate.frameCount - 1,
    ]);
    await db.run(shots.saveShot, [
      t.shot.name,
      Math.min(from, to),
      to,
      t.shot.colour ? JSON.stringify(t.shot.colour) : null,
      shot,
      1,
    ]);
    for (const [i, { solve, sections = [] }] of t.screens.entries()) {
      const recipe = JSON.stringify(recipes[i]);
      const { insertId: screen } = await db.run(screens.insertScreen, [shot, recipe, shot]);
      await db.run(screens.insertRevision, [screen, 1, recipe, 'Came with a template']);
      for (const one of [solve ?? [], sections].flat()) await putSolve(db, screen, one);
    }
    return shot;
  });
}

/** @throws ApiError 422 where it is no template, or does not hold its own plate */
export async function templateMedia(path: string): Promise<TemplateMedia> {
  const { media: all, plate } = await readTemplate(path);
  if (!all.some((m) => m.hash === plate))
    throw new ApiError(422, 'invalid', 'The template does not hold its own plate.');
  return { media: all, plate };
}

/** @throws ApiError 422 where the text is no table, or not the one that its name tells */
async function takeTables(c: Pick<Context, 'db'>, all: TemplateFile['tables']): Promise<void> {
  for (const { hash, name, body } of all) {
    if (tableHash(body) !== hash)
      throw new ApiError(422, 'unusable', `The colour table "${name}" in the template is not what its name says.`);
    await takeTable(c, name, body);
  }
}

/** The shot of a template whose media are in the library; its number. @throws ApiError 422 with what is wrong */
export async function shotOfTemplate(c: Pick<Context, 'db'>, productionId: number, path: string): Promise<number> {
  const template = await readTemplate(path);
  await takeTables(c, template.tables);
  return makeShot(c, productionId, template, (await c.db.one<MediaRow>(media.findMedia, [template.plate]))!);
}
