/** Puts the demo production into an empty database, through the same doors that a person's files take. */
import { randomBytes } from 'node:crypto';
import { copyFile, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Context } from './context';
import * as jobs from './sql/jobs';
import * as productions from './sql/productions';
import * as shots from './sql/shots';
import * as solves from './sql/solves';
import { createScreen } from './use-cases/save-screen';
import { identityOf } from './use-cases/solve';
import { takeUpload } from './use-cases/take-upload';

async function bring(c: Context, folder: string, fileName: string): Promise<string> {
  const upload = randomBytes(16).toString('hex'), path = join(c.storage.uploads(), upload);
  await copyFile(join(folder, fileName), path);
  await writeFile(`${path}.json`, JSON.stringify({ size: (await stat(path)).size }));
  return (await takeUpload(c, { upload, fileName })).hash;
}

export async function seedDemo(c: Context, folder: string): Promise<void> {
  if ((await c.db.all(productions.listProductions)).length > 0) return;
  const recipe = JSON.parse(await readFile(join(folder, 'harbour-phone.screen.json'), 'utf8')) as ScreenFile;
  const fill = await bring(c, folder, 'tide-clock.png');
  await bring(c, folder, 'boats.mp4');
  const plate = await bring(c, folder, 'harbour-phone.mp4');
  const { insertId: production } = await c.db.run(productions.insertProduction, ['The Tidewater Post']);
  const frames = (await c.db.one<{ frameCount: number }>('SELECT frame_count AS frameCount FROM media WHERE hash = ?', [plate]))!.frameCount;
  const { insertId: shot } = await c.db.run(shots.insertShot, [production, 'Harbour phone on the chart table', plate, frames - 1]);
  const screen = await createScreen(c, shot, { ...recipe, fill: { media: fill } });
  const { insertId: solve } = await c.db.run(solves.insertSolve, [screen.id, identityOf(screen, plate), JSON.stringify(screen.recipe.pin), recipe.referenceFrame]);
  await c.db.run(jobs.insertJob, ['follow', plate, shot, screen.id, solve, null, JSON.stringify({ from: 0, to: frames - 1, recipe: screen.recipe }), frames]);
}
