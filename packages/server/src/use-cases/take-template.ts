/**
 * A template that came from elsewhere becomes a shot: its media join the library, its Screens keep what was followed.
 */
import { mkdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { TemplateFile } from '@yarlop/contracts/validate';
import { checkTemplate } from '@yarlop/contracts/validate';
import { MediaError } from '@yarlop/media/media-error';
import { probe } from '@yarlop/media/probe';
import { checksum } from '@yarlop/pipeline/checksum';
import { readPackage } from '@yarlop/pipeline/package';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { MediaRow, ShotRow } from '../rows';
import * as tables from '../sql/colour-tables';
import * as media from '../sql/media';
import * as productions from '../sql/productions';
import * as screens from '../sql/screens';
import * as shots from '../sql/shots';
import * as solves from '../sql/solves';
import { TEMPLATE } from '../template-name';
import { findShot } from './create-shot';
import { frameValues } from './frame-values';
import { assertComplete, openOriginal, startIngest } from './take-upload';

/** @param folder of the unpacked package, whose files are moved into the library */
async function takeMedia(
  c: Context,
  { hash, name, files, firstNumber }: TemplateFile['media'][number],
  folder: string,
): Promise<MediaRow> {
  const known = await c.db.one<MediaRow>(media.findMedia, [hash]);
  if (known) return known;
  const from = join(folder, 'originals', hash);
  const source = { files: [...files], firstNumber };
  // A sequence is named by all of its bytes as they were sent, which its files alone do not tell; the manifest has
  // vouched for each of them.
  if (files.length === 1 && (await checksum(join(from, files[0]!))) !== hash)
    throw new ApiError(422, 'unusable', `"${name}" in the template is not what its name says: its checksum differs.`);
  const opened = await openOriginal(from, { name, source });
  try {
    const info = await probe(opened);
    await rm(c.storage.original(hash), { recursive: true, force: true });
    await mkdir(join(c.storage.original(hash), '..'), { recursive: true });
    await rename(from, c.storage.original(hash));
    await c.db.run(media.insertMedia, [
      hash,
      name.slice(0, 255),
      JSON.stringify(source),
      JSON.stringify(info),
      JSON.stringify(info.notes),
      info.frameCount,
    ]);
  } finally {
    await opened.dispose();
  }
  const row = (await c.db.one<MediaRow>(media.findMedia, [hash]))!;
  await startIngest(c, row);
  return row;
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
    const text = await readFile(join(into, TEMPLATE), 'utf8').catch(() => null);
    if (text === null)
      throw new ApiError(
        422,
        'invalid',
        'The package holds no template; deliver one as "Template" from the stage Hand over.',
      );
    const template = checkTemplate(JSON.parse(text));
    const plate = template.media.find((m) => m.hash === template.plate);
    if (!plate) throw new ApiError(422, 'invalid', 'The template does not hold its own plate.');
    for (const m of template.media) await takeMedia(c, m, into);
    for (const t of template.tables) await c.db.run(tables.insertTable, [t.hash, t.name, t.body]);
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
    await rm(path, { force: true });
    await rm(`${path}.json`, { force: true });
  }
}
