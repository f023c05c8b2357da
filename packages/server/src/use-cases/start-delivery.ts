import { can, formatOf, isOf } from '@yarlop/contracts/formats';
import type { Requests } from '@yarlop/contracts/validate';
import { isPass } from '@yarlop/core/dress/render';
import { fileSafe } from '@yarlop/pipeline/deliver-maps';
import { assertLoop } from '@yarlop/pipeline/loop';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { DeliveryRow, ScreenRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as media from '../sql/media';
import * as screens from '../sql/screens';
import { findShot } from './create-shot';
import { deliveredScreens } from './delivered-screens';
import { addJob } from './add-job';

type Settings = NonNullable<Requests['deliver']>;

/** A name that every file system takes. */
export function safeName(name: string): string {
  return fileSafe(name, 'shot').slice(0, 80);
}

/** What shows of the plate alone. */
const NEEDS_NO_FILL = ['clean', 'stabilised', 'flat'];
const isPicture = (as: Settings['as']): boolean => isOf(as, 'clip', 'sequence');
/** What a delivery of a format is named with; what is a picture a frame comes as a zip, unless it is one frame. */
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

/** @throws ApiError for a loop that cannot be made */
function assertLooped(from: number, to: number, dissolve: number): void {
  try {
    assertLoop({ from, to, dissolve });
  } catch (e) {
    throw e instanceof InputError ? new ApiError(422, 'out-of-range', e.message) : e;
  }
}

/** @throws ApiError 422 with what is missing or does not go together */
export function startDelivery(c: Context, shotId: number, settings: Settings): Promise<DeliveryRow> {
  const arrived = Date.now();
  return c.alone.acquire(`deliver ${shotId}`, () => startAlone(c, shotId, settings, arrived));
}

/** @param arrived when it was asked for, ms since 1970 */
async function startAlone(c: Context, shotId: number, settings: Settings, arrived: number): Promise<DeliveryRow> {
  const shot = await findShot(c, shotId);
  const whole = await c.db.all<ScreenRow>(screens.listScreens, [shotId]);
  const all = deliveredScreens(whole, settings);
  if (all.length === 0)
    throw new ApiError(
      422,
      'nothing',
      settings.screen === undefined
        ? 'The shot has no Screen yet; set a pin first.'
        : 'That Screen does not exist any more.',
    );
  const tracks = await Promise.all(all.map((s) => c.readers.track(s, shot.mediaHash)));
  const { as } = settings;
  const [from, to] = [settings.from ?? shot.rangeFrom, settings.to ?? shot.rangeTo];
  if (tracks.every((t) => t.frames.length === 0))
    throw new ApiError(422, 'nothing', 'No Screen of the shot has been followed yet; follow it first.');
  if (from > to || to >= shot.frameCount)
    throw new ApiError(
      422,
      'out-of-range',
      `The range ${from} to ${to} must rise and lie within frames 0 to ${shot.frameCount - 1}.`,
    );
  if (
    isPicture(as) &&
    !settings.fill &&
    !NEEDS_NO_FILL.includes(settings.show ?? '') &&
    !all.some((s) => s.recipe.fill)
  )
    throw new ApiError(422, 'nothing', 'No Screen of the shot has a fill; choose one in Dress first.');
  if (settings.show === 'element' && isPicture(as) && !can(as, 'alpha'))
    throw new ApiError(
      422,
      'invalid',
      'MP4 carries no alpha; deliver the element as MOV, WebM, Matroska or a sequence.',
    );
  if (settings.loop !== undefined && isPicture(as)) assertLooped(from, to, settings.loop);
  if (isPass(settings.show ?? '') && !can(as, 'floats'))
    throw new ApiError(
      422,
      'invalid',
      'A pass holds light below black and beyond white; deliver it as an OpenEXR sequence.',
    );
  if (as === 'table' && !settings.template?.trim())
    throw new ApiError(422, 'invalid', 'The template is empty; write what one line of the table is to hold.');
  if (settings.fill && !(await c.db.one(media.findMedia, [settings.fill])))
    throw new ApiError(422, 'nothing', 'The fill does not exist in the library any more.');
  if (settings.slot !== undefined && !all.some((s) => s.id === settings.slot))
    throw new ApiError(422, 'nothing', 'The Screen whose slot the fill was to take does not exist any more.');
  const revision = all.reduce((sum, s) => sum + s.revision, 0);
  const waited = (Date.now() - arrived) / 1000;
  const asked = [shotId, revision, JSON.stringify(settings), waited, waited];
  const twice = await c.db.one<{ id: number }>(deliveries.askedTwice, asked);
  if (twice) return (await c.db.one<DeliveryRow>(deliveries.findDelivery, [twice.id]))!;
  const shown = whatIsShown(settings);
  const named = settings.fill
    ? `-${safeName((await c.db.one<{ name: string }>(media.findMedia, [settings.fill]))!.name.replace(/\.\w+$/, ''))}`
    : '';
  const fileName = `${safeName(settings.name ?? shot.name)}${named}${shown}-r${revision}.${ending(as, to - from + 1)}`;
  const id = await c.db.transaction(async (t) => {
    const { insertId } = await t.run(deliveries.insertDelivery, [shotId, JSON.stringify(settings), revision, fileName]);
    const input = {
      settings,
      fileName,
      recipes: all.map((s) => ({
        id: s.id,
        revision: s.revision,
        recipe:
          settings.fill && (settings.slot === undefined || settings.slot === s.id)
            ? { ...s.recipe, fill: { ...s.recipe.fill, media: settings.fill } }
            : s.recipe,
      })),
      range: [from, to],
    };
    await addJob(t, {
      kind: 'deliver',
      mediaHash: shot.mediaHash,
      shotId,
      deliveryId: insertId,
      input,
      framesTotal: isPicture(as)
        ? to - from + 1
        : picturesOfData(
            settings,
            tracks.reduce((n, t) => n + t.frames.length, 0),
            shot.frameCount,
          ),
    });
    return insertId;
  });
  c.wake();
  c.events.emit('deliveries', { shotId });
  return (await c.db.one<DeliveryRow>(deliveries.findDelivery, [id]))!;
}
