/** Puts the demo production into an empty database, through the same doors that a person's files take. */
import { randomBytes } from 'node:crypto';
import { copyFile, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ScreenFile } from '@yarlop/contracts/validate';
import { keptProportions } from '@yarlop/core/dress/shape/placement';
import type { Quad } from '@yarlop/core/geometry/quad';
import { proportionsOf } from '@yarlop/core/pin/proportions';
import type { Context } from './context';
import { HARBOUR_CALL } from './demo-content';
import type { CameraSettings, MediaRow } from './rows';
import * as productions from './sql/productions';
import * as shots from './sql/shots';
import * as solves from './sql/solves';
import { addJob } from './use-cases/add-job';
import { addContent } from './use-cases/contents';
import { createScreen } from './use-cases/save-screen';
import { identityOf } from './use-cases/parts';
import { takeUpload } from './use-cases/take-upload';

async function bring(c: Context, folder: string, fileName: string): Promise<MediaRow> {
  const upload = randomBytes(16).toString('hex');
  const path = join(c.storage.uploads(), upload);
  await copyFile(join(folder, fileName), path);
  await writeFile(`${path}.json`, JSON.stringify({ size: (await stat(path)).size }));
  return takeUpload(c, { upload, fileName });
}

/** A shot of the demo. */
interface DemoShot {
  readonly clip: string;
  readonly name: string;
  /** files of its Screens, without their ending */
  readonly screens: readonly string[];
}

/** In the order in which they are shown. */
const SHOTS: readonly DemoShot[] = [
  { clip: 'harbour-phone', name: 'Harbour phone on the chart table', screens: ['harbour-phone'] },
  { clip: 'phone-in-hand', name: 'Harbour phone in the hand', screens: ['phone-in-hand'] },
  { clip: 'logbook-laptop', name: 'Logbook laptop under a gliding window', screens: ['logbook-laptop'] },
  { clip: 'two-devices', name: 'Laptop and phone on one table', screens: ['two-devices.1', 'two-devices.2'] },
  { clip: 'night-phone', name: 'Night phone lights up', screens: ['night-phone'] },
  { clip: 'loft-tv', name: 'Bulletin in the net loft', screens: ['loft-tv'] },
  { clip: 'chart-tablet', name: 'Chart tablet swung round', screens: ['chart-tablet'] },
  { clip: 'window-tablet', name: 'Tablet through a wide lens', screens: ['window-tablet'] },
  { clip: 'logbook-room', name: 'Logbook room, walked round', screens: ['logbook-room'] },
];

/** Shots whose camera is solved too, and whose Screens rest on it. */
const WITH_CAMERA: readonly string[] = ['logbook-room'];
const FIND_ALL: CameraSettings = { kind: 'find', known: { as: 'nothing' }, leftOut: [], dropped: [] };

async function addCamera(c: Context, shotId: number, plate: string, frames: number): Promise<void> {
  const to = frames - 1;
  await addJob(c.db, {
    kind: 'camera',
    mediaHash: plate,
    shotId,
    input: { settings: FIND_ALL, from: 0, to },
    framesTotal: frames,
  });
}

/** A fill of the demo. */
interface DemoFill {
  readonly hash: string;
  /** width by height */
  readonly ratio: number;
}

/** A Screen's recipe with the fill whose proportions are nearest to its own. */
function filled(recipe: ScreenFile, plate: MediaRow['probe'], fills: readonly DemoFill[]): ScreenFile {
  const own = proportionsOf(recipe.pin as unknown as Quad, plate);
  const far = (f: DemoFill): number => Math.abs(Math.log(f.ratio / own));
  const fill = [...fills].sort((a, b) => far(a) - far(b))[0]!;
  const placement = keptProportions(fill.ratio, own);
  const dressed = { ...recipe, fill: { media: fill.hash } };
  return placement ? { ...dressed, dress: { placement } as NonNullable<ScreenFile['dress']> } : dressed;
}

async function addShot(
  c: Context,
  { clip, name, screens }: DemoShot,
  { folder, production, fills }: { readonly folder: string; readonly production: number; readonly fills: DemoFill[] },
): Promise<void> {
  const { hash: plate, probe, frameCount: frames } = await bring(c, folder, `${clip}.mp4`);
  const { insertId: shot } = await c.db.run(shots.insertShot, [production, name, plate, frames - 1]);
  for (const file of screens) {
    const recipe = JSON.parse(await readFile(join(folder, `${file}.screen.json`), 'utf8')) as ScreenFile;
    const scene = WITH_CAMERA.includes(clip) ? { scene: true } : {};
    const screen = await createScreen(c, shot, { ...filled(recipe, probe, fills), ...scene });
    const { insertId: solve } = await c.db.run(solves.insertSolve, [
      screen.id,
      identityOf({ screen: screen.recipe, first: null }, plate),
      JSON.stringify(screen.recipe.pin),
      recipe.referenceFrame,
      null,
    ]);
    await addJob(c.db, {
      kind: 'follow',
      mediaHash: plate,
      shotId: shot,
      screenId: screen.id,
      solveId: solve,
      input: { from: 0, to: frames - 1, keepLooking: true, recipe: screen.recipe },
      framesTotal: frames,
    });
  }
  if (WITH_CAMERA.includes(clip)) await addCamera(c, shot, plate, frames);
}

export async function seedDemo(c: Context, folder: string): Promise<void> {
  if ((await c.db.all(productions.listProductions)).length > 0) return;
  const fills: DemoFill[] = [];
  for (const name of ['tide-clock.png', 'harbour-board.png']) {
    const { hash, probe } = await bring(c, folder, name);
    fills.push({ hash, ratio: probe.width / probe.height });
  }
  await bring(c, folder, 'boats.mp4');
  const { insertId: production } = await c.db.run(productions.insertProduction, ['The Tidewater Post']);
  await addContent(c, production, HARBOUR_CALL);
  for (const shot of SHOTS) await addShot(c, shot, { folder, production, fills });
}
