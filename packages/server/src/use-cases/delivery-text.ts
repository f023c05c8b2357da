/** Track data as text at once, for the clipboard and for looking at a table before it is delivered. */
import { fillTemplate } from '@yarlop/core/formats/table-template';
import { isOf } from '@yarlop/contracts/formats';
import { writeText } from '@yarlop/pipeline/text-writers';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import * as screens from '../sql/screens';
import type { DeliverSettings } from '../worker-protocol';
import { findShot } from './create-shot';
import { deliveredTrack, reportParts } from './deliver-task';
import { deliveredScreens } from './delivered-screens';
import { readyPlate } from './ready-plate';

/** @throws ApiError for a shot without a track, CoreError for a template that is wrong */
export async function deliveryText(c: Context, shotId: number, settings: DeliverSettings): Promise<string> {
  const { media } = await readyPlate(c, shotId);
  const all = deliveredScreens(await c.db.all<ScreenRow>(screens.listScreens, [shotId]), settings);
  const { track, conventions, views } = await deliveredTrack(c, shotId, settings, all, media);
  if (track.screens.length === 0)
    throw new ApiError(422, 'nothing', 'No Screen of the shot has been followed yet; follow it first.');
  if (settings.as === 'table')
    return track.screens
      .map((s) => fillTemplate(settings.template ?? '', track, s, { conventions, timecode: media.probe.timecode }))
      .join('\n');
  const { as } = settings;
  if (!isOf(as, 'text')) throw new ApiError(422, 'invalid', `"${as}" is no text.`);
  return writeText(track, as, {
    conventions,
    report: as === 'report' ? await reportParts(c, await findShot(c, shotId), all, views) : {},
    invert: settings.invert ?? false,
    ...(settings.points ? { points: settings.points as [number, number][] } : {}),
    screens: new Map(all.map((s) => [s.recipe.name, s.recipe])),
    scene: {
      ...(settings.focal === undefined ? {} : { focal: settings.focal }),
      ...(settings.deviceHeight === undefined
        ? {}
        : { heights: new Map(track.screens.map((s) => [s.name, settings.deviceHeight!])) }),
    },
  });
}
