/**
 * A template that came from elsewhere becomes a shot: its media join the library, its Screens keep what was followed.
 */
import { readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { TemplateFile } from '@yarlop/contracts/validate';
import { checkTemplate } from '@yarlop/contracts/validate';
import { MediaError } from '@yarlop/media/media-error';
import { checksumOf } from '@yarlop/pipeline/checksum';
import { readPackage } from '@yarlop/pipeline/package';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { MediaRow, ShotRow } from '../rows';
import * as media from '../sql/media';
import * as productions from '../sql/productions';
import * as screens from '../sql/screens';
import * as shots from '../sql/shots';
import * as solves from '../sql/solves';
import { TEMPLATE } from '../template-name';
import { findShot } from './create-shot';
import { frameValues } from './frame-values';
import { intoLibrary } from './library';
import { tableHash, takeTable } from './take-table';
import { assertComplete, forget } from './take-upload';

/** Bytes of a template's own file, which is read whole; one of 2,000 frames has some 5 MB. */
const LARGEST_TEMPLATE = 64 * 2 ** 20;

/**
 * @param folder of the unpacked package, whose files are moved into the library
 * @throws ApiError 422 where the bytes are not those that their name tells
 */
async function takeMedia(
  c: Context,
  { hash, name, files, firstNumber }: TemplateFile['media'][number],
  folder: string,
): Promise<void> {
  const from = join(folder, 'originals', hash);
  if ((await checksumOf(files.map((f) => ({ path: join(from, f) })))) !== hash)
    throw new ApiError(422, 'unusable', `"${name}" in the template is not what its name says: its checksum differs.`);
  await intoLibrary(c, {
    hash,
    name,
    gather: async (part) => {
      for (const f of files) await rename(join(from, f), join(part, f));
      return { files: [...files], firstNumber };
    },
  });
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
  return checkTemplate(JSON.parse(await readFile(path, 'utf8')));
}

/** All or nothing of the shot; media that were taken stay in the library. */
async function makeShot(c: Context, productionId: number, t: TemplateFile, plate: MediaRow): Promise<number> {
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
      Math.min(from, to),
      to,
      t.shot.colour ? JSON.stringify(t.shot.colour) : null,
      shot,
      1,
    ]);
    for (const [i, { solve }] of t.screens.entries()) {
      const recipe = JSON.stringify(recipes[i]);
      const { insertId: screen } = await db.run(screens.insertScreen, [shot, recipe, shot]);
      await db.run(screens.insertRevision, [screen, 1, recipe, 'Came with a template']);
      if (!solve) continue;
      const { insertId: own } = await db.run(solves.insertSolve, [
        screen,
        solve.identity,
        JSON.stringify(solve.pin),
        solve.referenceFrame,
      ]);
      for (const side of ['forwards', 'backwards'] as const)
        if (solve[side]) await db.run(solves.checkpoint[side], [JSON.stringify(solve[side]), own]);
      for (const f of solve.frames) await db.run(solves.putFrame, frameValues(own, f));
    }
    return shot;
  });
}

/** @throws ApiError 422 with what is wrong: a package that is none, was changed, or holds something else */
export async function takeTemplate(c: Context, productionId: number, upload: string): Promise<ShotRow> {
  if (!(await c.db.one(productions.findProduction, [productionId]))) throw notFound('The production');
  const path = join(c.storage.uploads(), upload);
  const into = `${path}.unpacked`;
  await assertComplete(path);
  try {
    await readPackage(path, into);
    const template = await readTemplate(join(into, TEMPLATE));
    const plate = template.media.find((m) => m.hash === template.plate);
    if (!plate) throw new ApiError(422, 'invalid', 'The template does not hold its own plate.');
    for (const m of template.media) await takeMedia(c, m, into);
    for (const { hash, name, body } of template.tables) {
      if (tableHash(body) !== hash)
        throw new ApiError(422, 'unusable', `The colour table "${name}" in the template is not what its name says.`);
      await takeTable(c, name, body);
    }
    return await findShot(
      c,
      await makeShot(c, productionId, template, (await c.db.one<MediaRow>(media.findMedia, [template.plate]))!),
    );
  } catch (e) {
    if (e instanceof InputError || e instanceof MediaError || e instanceof SyntaxError)
      throw new ApiError(
        422,
        'unusable',
        e instanceof SyntaxError ? 'The template is damaged: it is no JSON.' : e.message,
      );
    throw e;
  } finally {
    await rm(into, { recursive: true, force: true });
    await forget(path);
  }
}
