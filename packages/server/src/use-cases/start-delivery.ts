import type { Requests } from '@yarlop/contracts/validate';
import { isPass } from '@yarlop/core/dress/render';
import type { TextFormat } from '@yarlop/pipeline/deliver';
import { fileSafe } from '@yarlop/pipeline/deliver-maps';
import { ENDINGS, MAP_FORMATS, PLATE_FORMATS } from '@yarlop/pipeline/deliver';
import { assertLoop } from '@yarlop/pipeline/loop';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { DeliveryRow, ScreenRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as jobs from '../sql/jobs';
import * as media from '../sql/media';
import * as screens from '../sql/screens';
import { findShot } from './create-shot';

type Settings = NonNullable<Requests['deliver']>;

/** A name that every file system takes. */
export function safeName(name: string): string {
  return fileSafe(name, 'shot').slice(0, 80);
}

/** Formats that are pictures of what is dressed. */
export const PICTURES = ['mp4', 'hevc', 'mov', 'webm', 'mkv', 'png', 'tiff', 'exr'] as const;
/** Of these, those that are a picture a frame. */
const SEQUENCES: readonly string[] = ['png', 'tiff', 'exr'];
/** What shows of the plate alone. */
const NEEDS_NO_FILL = ['clean', 'stabilised', 'flat'];
const isPicture = (as: Settings['as']): boolean => (PICTURES as readonly string[]).includes(as);
/** What a delivery of a format is named with; what is a picture a frame comes as a zip, unless it is one frame. */
function ending(as: Settings['as'], frames: number): string {
  if (SEQUENCES.includes(as) && frames === 1) return as;
  if (as === 'hevc') return 'hevc.mp4';
  if (as === 'table') return 'txt';
  if (as in ENDINGS)
    return as.includes('-') ? `${as.split('-')[0]}.${ENDINGS[as as TextFormat]}` : ENDINGS[as as TextFormat];
  if ((MAP_FORMATS as readonly string[]).includes(as)) return `${as}.zip`;
  if (['mp4', 'mov', 'webm', 'mkv'].includes(as)) return as;
  if (as === 'png' || as === 'package') return 'zip';
  if (as === 'template') return 'template.zip';
  return `${as}.zip`;
}

/** Pictures that a delivery of track data writes: maps for every solved frame of each Screen, and the plate's own. */
function picturesOfData({ as, parts }: Settings, solvedFrames: number, plateFrames: number): number {
  const written = as === 'package' ? (parts ?? []) : [as];
  const maps = written.filter((p) => (MAP_FORMATS as readonly string[]).includes(p)).length;
  const plates = written.filter((p) => (PLATE_FORMATS as readonly string[]).includes(p)).length;
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
  return c.alone.acquire(`deliver ${shotId}`, () => startAlone(c, shotId, settings));
}

async function startAlone(c: Context, shotId: number, settings: Settings): Promise<DeliveryRow> {
  const shot = await findShot(c, shotId);
  const whole = await c.db.all<ScreenRow>(screens.listScreens, [shotId]);
  const all = settings.screen === undefined ? whole : whole.filter((s) => s.id === settings.screen);
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
  if (settings.show === 'element' && (as === 'mp4' || as === 'hevc'))
    throw new ApiError(
      422,
      'invalid',
      'MP4 carries no alpha; deliver the element as MOV, WebM, Matroska or a sequence.',
    );
  if (settings.loop !== undefined && isPicture(as)) assertLooped(from, to, settings.loop);
  if (isPass(settings.show ?? '') && as !== 'exr')
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
  const twice = await c.db.one<{ id: number }>(deliveries.askedTwice, [shotId, revision, JSON.stringify(settings)]);
  if (twice) return (await c.db.one<DeliveryRow>(deliveries.findDelivery, [twice.id]))!;
  const shown = `${settings.show && settings.show !== 'dressed' ? `-${settings.show}` : ''}${settings.loop === undefined ? '' : '-loop'}`;
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
    await t.run(jobs.insertJob, [
      'deliver',
      shot.mediaHash,
      shotId,
      null,
      null,
      insertId,
      JSON.stringify(input),
      isPicture(as)
        ? to - from + 1
        : picturesOfData(
            settings,
            tracks.reduce((n, t) => n + t.frames.length, 0),
            shot.frameCount,
          ),
    ]);
    return insertId;
  });
  c.wake();
  c.events.emit('deliveries', { shotId });
  return (await c.db.one<DeliveryRow>(deliveries.findDelivery, [id]))!;
}
