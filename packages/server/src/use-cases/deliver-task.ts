/** What a delivery is made from: the shot's track as it was corrected, and the fills of its slots. */
import type { JobInput, ScreenFile } from '@yarlop/contracts/validate';
import type { Conventions } from '@yarlop/core/formats/conventions';
import { ownConventions } from '@yarlop/core/formats/conventions';
import { mapQuad } from '@yarlop/core/geometry/quad';
import { corrected } from '@yarlop/core/solve/touch-up';
import type { ReportParts } from '@yarlop/core/formats/report';
import type { ScreenTrack, Track } from '@yarlop/core/track';
import { DATA_FORMATS } from '@yarlop/pipeline/deliver-job';
import type { CornerOrder } from '@yarlop/pipeline/delivered-corners';
import { asDelivered, saying } from '@yarlop/pipeline/delivered-corners';
import { plateInfo } from '@yarlop/pipeline/plate';
import { correctionsOf } from '@yarlop/pipeline/screen-file';
import type { Context } from '../context';
import type { MediaRow, ShotRow } from '../rows';
import type { DeliverSettings, DeliverTask } from '../worker-protocol';
import { findMedia } from '../sql/media';
import { findShot } from './create-shot';
import { planesOf } from './delivered-screens';
import { fillOf } from './find-fill';
import { readProof, verdictOn } from './proof';
import type { TrackView } from '../track-view';
import { templateOf } from './template-of';

type DeliverOrder = JobInput<'deliver'>;

function screenTrack(recipe: ScreenFile, track: TrackView): ScreenTrack {
  return {
    name: recipe.name,
    referenceFrame: recipe.referenceFrame,
    stopped: null,
    ...(track.lens ? { lens: track.lens } : {}),
    // Just what the contract of a track holds.
    frames: track.frames.map(({ frame, homography, sigma, trust, evidence }) =>
      corrected(
        { frame, homography, sigma, trust, evidence, corners: mapQuad(homography, recipe.pin) },
        recipe.pin,
        correctionsOf(recipe),
      ),
    ),
  };
}

/** Which corners are asked for; null for the pin's own at the frame's middle, as pictures always take them. */
async function cornerOrder(
  c: Context,
  { as, at, dressed }: DeliverSettings,
  recipes: DeliverOrder['recipes'],
  views: ReadonlyMap<number, TrackView>,
): Promise<CornerOrder | null> {
  const isData = (DATA_FORMATS as readonly string[]).includes(as) || as === 'table';
  if (!isData || (!at && !dressed)) return null;
  const content = new Map<string, { width: number; height: number }>();
  for (const { recipe } of dressed ? recipes : []) {
    const hash = recipe.fill?.media;
    const probe = hash && (await c.db.one<MediaRow>(findMedia, [hash]))?.probe;
    if (probe) content.set(recipe.name, probe);
  }
  return {
    ...(at ? { at } : {}),
    isDressed: dressed ?? false,
    recipes: new Map(recipes.map((r) => [r.recipe.name, r.recipe])),
    content,
    shutters: new Map(
      recipes.flatMap(({ id, recipe }) => {
        const share = views.get(id)?.shutter?.share;
        return share === undefined ? [] : [[recipe.name, share] as const];
      }),
    ),
  };
}

/** The shot's track and how its coordinates are written. */
export async function deliveredTrack(
  c: Context,
  shotId: number,
  settings: DeliverSettings,
  recipes: DeliverOrder['recipes'],
  row: MediaRow,
): Promise<{
  readonly track: Track;
  readonly conventions: Conventions;
  readonly views: ReadonlyMap<number, TrackView>;
}> {
  const plate = plateInfo(row.probe, row.frameCount);
  const views = new Map<number, TrackView>();
  const screens: ScreenTrack[] = [];
  const { origin, units, pixelOrigin, firstFrame } = settings;
  const own = ownConventions(plate.width, plate.height);
  for (const { id, revision, recipe } of recipes) {
    const view = await c.readers.track({ id, shotId, recipe, revision }, row.hash);
    if (view.frames.length === 0) continue;
    views.set(id, view);
    screens.push(screenTrack(recipe, view));
  }
  const track = { plate: { ...plate, ...(firstFrame === undefined ? {} : { firstFrame }) }, screens };
  const conventions = {
    ...own,
    ...(origin ? { origin } : {}),
    ...(units ? { units } : {}),
    ...(pixelOrigin ? { pixelOrigin } : {}),
  };
  const order = await cornerOrder(c, settings, recipes, views);
  return {
    views,
    track: order ? asDelivered(track, order) : track,
    conventions: order ? saying(conventions, track, order) : conventions,
  };
}

/** What proof and solver say of each Screen, and what the track was made with. */
export async function reportParts(
  c: Context,
  shot: ShotRow,
  recipes: DeliverOrder['recipes'],
  views: ReadonlyMap<number, TrackView>,
): Promise<ReportParts> {
  const proofs = await Promise.all(
    recipes.flatMap(({ id, recipe, revision }) => {
      const view = views.get(id);
      const screen = { id, shotId: shot.id, recipe, revision };
      if (!view) return [];
      return [
        readProof(c, screen, view).then((proof) => {
          const { word, reasons } = verdictOn(screen, view, proof, shot);
          return { screen: recipe.name, verdict: [word, ...reasons].join('. '), worst: [] };
        }),
      ];
    }),
  );
  return {
    proofs,
    settings: [
      ['Shot', shot.name],
      ['Working range', `${shot.rangeFrom} to ${shot.rangeTo}`],
      ...recipes.map(({ recipe, revision }): [string, string] => [
        recipe.name,
        `revision ${revision}; motion ${recipe.motion ?? 'perspective'}; ${recipe.touchUps?.length ?? 0} touch-ups`,
      ]),
    ],
  };
}

export async function deliverTask(
  c: Context,
  shotId: number,
  deliveryId: number,
  input: DeliverOrder,
  row: MediaRow,
): Promise<DeliverTask> {
  const { storage } = c;
  const shot = await findShot(c, shotId);
  const { track, conventions, views } = await deliveredTrack(c, shotId, input.settings, input.recipes, row);
  const fills = [];
  for (const { id, recipe } of input.recipes) {
    const view = views.get(id);
    const found = view && (await fillOf(c, recipe));
    if (view && found) fills.push({ screen: recipe, shutter: view.shutter?.share ?? null, lens: view.lens, ...found });
  }
  return {
    kind: 'deliver',
    media: { ...row, probe: shot.probe },
    original: storage.original(row.hash),
    folder: storage.derived(row.hash),
    out: storage.delivery(deliveryId),
    fileName: input.fileName,
    settings: input.settings,
    track,
    fills,
    planes: await planesOf(c, shotId, row.hash, input.recipes),
    range: input.range,
    recipes: input.recipes.map((r) => r.recipe),
    conventions,
    report: await reportParts(c, shot, input.recipes, views),
    template: input.settings.as === 'template' ? await templateOf(c, shot, input.recipes) : null,
  };
}
