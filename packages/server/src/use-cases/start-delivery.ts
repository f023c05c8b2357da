import { can, formatOf, isOf } from '@yarlop/contracts/formats';
import type { Requests } from '@yarlop/contracts/validate';
import { isPass } from '@yarlop/core/dress/render';
import { fileSafe } from '@yarlop/pipeline/deliver-maps';
import { assertLoop } from '@yarlop/pipeline/loop';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { DeliveryRow, ScreenRow, ShotRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as media from '../sql/media';
import * as screens from '../sql/screens';
import { findShot } from './create-shot';
import { deliveredScreens, revisionOf } from './delivered-screens';
import { addJob } from './add-job';

type Settings = NonNullable<Requests['deliver']>;

/** A name that every file system takes. */
export function safeName(name: string): string {
  return fileSafe(name, 'shot').slice(0, 80);
}

/** What shows of the plate alone. */
const NEEDS_NO_FILL = ['clean', 'stabilised', 'flat'];
const isPicture = (as: Settings['as']): boolean => isOf(as, 'clip', 'sequence');
/** What sets a delivery apart from others of its shot, as its file's name tells it. */
function whatIsShown({ show, loop, dressed, at }: Settings): string {
  const parts = [
    show && show !== 'dressed' ? show : '',
    loop === undefined ? '' : 'loop',
    dressed ? 'of-fill' : '',
    at ? `at-${at}` : '',
  ];
  return parts.flatMap((p) => (p ? [`-${p}`] : [])).join('');
}

/** What a delivery of a format is named with; what is a picture a frame comes as a zip, unless it is one frame. */
function ending(as: Settings['as'], frames: number): string {
  const { kind, extension, ending: told } = formatOf(as);
  return kind === 'sequence' && frames === 1 ? extension! : told;
}

/** Pictures that a delivery of track data writes: maps for every solved frame of each Screen, and the plate's own. */
function picturesOfData({ as, parts }: Settings, solvedFrames: number, plateFrames: number): number {
  const written = as === 'package' ? (parts ?? []) : [as];
  const maps = written.filter((p) => isOf(p, 'maps')).length;
  const plates = written.filter((p) => isOf(p, 'plate')).length;
  return Math.max(1, maps * solvedFrames + plates * plateFrames);
}

/** All that a delivery is made from. */
interface Order {
  readonly settings: Settings;
  readonly shot: ShotRow;
  /** those that are delivered */
  readonly screens: readonly ScreenRow[];
  readonly range: readonly [from: number, to: number];
}

const nothing = (message: string): ApiError => new ApiError(422, 'nothing', message);
const invalid = (message: string): ApiError => new ApiError(422, 'invalid', message);
const outOfRange = (message: string): ApiError => new ApiError(422, 'out-of-range', message);

/** @throws ApiError for a loop that cannot be made */
function assertLooped(from: number, to: number, dissolve: number): void {
  try {
    assertLoop({ from, to, dissolve });
  } catch (e) {
    throw e instanceof InputError ? outOfRange(e.message) : e;
  }
}

/** @throws ApiError for a range that the plate does not have */
function assertRange({ range: [from, to], shot }: Order): void {
  if (from > to || to >= shot.frameCount)
    throw outOfRange(`The range ${from} to ${to} must rise and lie within frames 0 to ${shot.frameCount - 1}.`);
}

/** @throws ApiError for pictures that cannot be made, or not in that format */
function assertPictures({ settings, screens, range: [from, to] }: Order): void {
  const { as, show = '', fill, loop } = settings;
  const hasFill = fill !== undefined || screens.some((s) => s.recipe.fill);
  if (!hasFill && !NEEDS_NO_FILL.includes(show))
    throw nothing('No Screen of the shot has a fill; choose one in Dress first.');
  if (show === 'element' && !can(as, 'alpha'))
    throw invalid('MP4 carries no alpha; deliver the element as MOV, WebM, Matroska or a sequence.');
  if (loop !== undefined) assertLooped(from, to, loop);
}

/** @throws ApiError for a format that cannot hold what is asked of it */
function assertFormat({ as, show, template }: Settings): void {
  if (isPass(show ?? '') && !can(as, 'floats'))
    throw invalid('A pass holds light below black and beyond white; deliver it as an OpenEXR sequence.');
  if (as === 'table' && !template?.trim())
    throw invalid('The template is empty; write what one line of the table is to hold.');
}

/** Name of the picture or clip that takes a slot; null where none does. @throws ApiError when it, or its slot, is gone */
async function nameOfFill(c: Context, { settings: { fill, slot }, screens: all }: Order): Promise<string | null> {
  const found = fill && (await c.db.one<{ name: string }>(media.findMedia, [fill]));
  if (fill && !found) throw nothing('The fill does not exist in the library any more.');
  if (slot !== undefined && !all.some((s) => s.id === slot))
    throw nothing('The Screen whose slot the fill was to take does not exist any more.');
  return found ? found.name : null;
}

function fileNameOf(order: Order, fill: string | null): string {
  const { settings, shot, range } = order;
  const ofFill = fill === null ? '' : `-${safeName(fill.replace(/\.\w+$/, ''))}`;
  const end = ending(settings.as, range[1] - range[0] + 1);
  return `${safeName(settings.name ?? shot.name)}${ofFill}${whatIsShown(settings)}-r${revisionOf(order.screens)}.${end}`;
}

/** A Screen's recipe with what takes its slot. */
function recipeOf({ id, recipe }: ScreenRow, { fill, slot }: Settings): ScreenRow['recipe'] {
  const takes = fill && (slot === undefined || slot === id);
  return takes ? { ...recipe, fill: { ...recipe.fill, media: fill } } : recipe;
}

/** The delivery that somebody asked for a moment ago in the very same words; null when nobody did. */
async function askedAlready(c: Context, order: Order, arrived: number): Promise<DeliveryRow | null> {
  const waited = (Date.now() - arrived) / 1000;
  const asked = [order.shot.id, revisionOf(order.screens), JSON.stringify(order.settings), waited, waited];
  const twice = await c.db.one<{ id: number }>(deliveries.askedTwice, asked);
  return twice && c.db.one<DeliveryRow>(deliveries.findDelivery, [twice.id]);
}

/** @param pictures that it writes. @returns its id */
function insert(c: Context, order: Order, fileName: string, pictures: number): Promise<number> {
  const { settings, shot, range } = order;
  return c.db.transaction(async (t) => {
    const row = [shot.id, JSON.stringify(settings), revisionOf(order.screens), fileName];
    const { insertId } = await t.run(deliveries.insertDelivery, row);
    const recipes = order.screens.map((s) => ({ id: s.id, revision: s.revision, recipe: recipeOf(s, settings) }));
    await addJob(t, {
      kind: 'deliver',
      mediaHash: shot.mediaHash,
      shotId: shot.id,
      deliveryId: insertId,
      input: { settings, fileName, recipes, range },
      framesTotal: pictures,
    });
    return insertId;
  });
}

/** @throws ApiError 422 with what is missing or does not go together */
export function startDelivery(c: Context, shotId: number, settings: Settings): Promise<DeliveryRow> {
  const arrived = Date.now();
  return c.alone.acquire(`deliver ${shotId}`, () => startAlone(c, shotId, settings, arrived));
}

/** @param arrived when it was asked for, ms since 1970 */
async function startAlone(c: Context, shotId: number, settings: Settings, arrived: number): Promise<DeliveryRow> {
  const shot = await findShot(c, shotId);
  const delivered = deliveredScreens(await c.db.all<ScreenRow>(screens.listScreens, [shotId]), settings);
  if (delivered.length === 0 && settings.screen !== undefined) throw nothing('That Screen does not exist any more.');
  if (delivered.length === 0) throw nothing('The shot has no Screen yet; set a pin first.');
  const range = [settings.from ?? shot.rangeFrom, settings.to ?? shot.rangeTo] as const;
  const order: Order = { settings, shot, screens: delivered, range };
  const tracks = await Promise.all(delivered.map((s) => c.readers.track(s, shot.mediaHash)));
  const solved = tracks.reduce((n, t) => n + t.frames.length, 0);
  if (solved === 0) throw nothing('No Screen of the shot has been followed yet; follow it first.');
  assertRange(order);
  const hasPictures = isPicture(settings.as);
  if (hasPictures) assertPictures(order);
  assertFormat(settings);
  const fill = await nameOfFill(c, order);
  const twice = await askedAlready(c, order, arrived);
  if (twice) return twice;
  const pictures = hasPictures ? range[1] - range[0] + 1 : picturesOfData(settings, solved, shot.frameCount);
  const id = await insert(c, order, fileNameOf(order, fill), pictures);
  c.wake();
  c.events.emit('deliveries', { shotId });
  return (await c.db.one<DeliveryRow>(deliveries.findDelivery, [id]))!;
}
