/**
 * Corner data from elsewhere becomes a Screen whose every frame is a hand key: provable, repairable, dressable as any
 * other.
 */
import type { Columns } from '@yarlop/core/formats/foreign-table';
import { quadToQuad } from '@yarlop/core/geometry/homography';
import { scaling } from '@yarlop/core/geometry/matrix3';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Track } from '@yarlop/core/track';
import { plateInfo } from '@yarlop/pipeline/plate';
import { ApiError } from '../api-error';
import type { Context } from '../context';
import type { ScreenRow } from '../rows';
import type { Asked } from './read-import';
import { readyPlate } from './ready-plate';
import { findShot } from './create-shot';
import { createScreen, findScreen } from './save-screen';
import { sameShape } from './same-shape';
import { startFollow } from './start-follow';

export interface Imported {
  readonly notes: readonly string[];
  /** of a foreign table: its first row of names, and what its columns are taken for */
  readonly header: readonly string[] | null;
  readonly columns: Columns | null;
  readonly found: readonly {
    readonly name: string;
    readonly frames: readonly { readonly frame: number; readonly corners: Quad }[];
  }[];
  /** Screens that were made; none for a look ahead */
  readonly screens: readonly ScreenRow[];
}

/** Frames that a recipe holds by hand at the most. */
const MOST = 2000;

/** Corners for a plate of another size of the same shape. @throws ApiError when the shapes differ */
function rescaled(track: Track, width: number, height: number, notes: string[]): Track {
  const { plate } = track;
  if (plate.width === width && plate.height === height) return track;
  if (!sameShape(plate, { width, height }))
    throw new ApiError(
      422,
      'invalid',
      `The file was made on a plate of ${plate.width}x${plate.height}, this one is ${width}x${height}: their shapes differ, so that corners cannot be scaled. Use the same framing.`,
    );
  notes.push(`Made on a plate of ${plate.width}x${plate.height}: scaled to ${width}x${height}.`);
  const m = scaling(width / plate.width, height / plate.height);
  return {
    ...track,
    screens: track.screens.map((s) => ({
      ...s,
      frames: s.frames.map((f) => ({ ...f, corners: mapQuad(m, f.corners) })),
    })),
  };
}

/**
 * Corners that were followed on the plate held still by a Screen, on the plate itself: that Screen's motion after their
 * own. @throws ApiError
 */
async function composed(
  c: Context,
  shotId: number,
  track: Track,
  { screen: id, from }: NonNullable<Asked['onto']>,
  notes: string[],
): Promise<Track> {
  const screen = await findScreen(c, id);
  const { mediaHash } = await findShot(c, shotId);
  if (screen.shotId !== shotId)
    throw new ApiError(422, 'invalid', 'The Screen that held the plate still belongs to another shot.');
  const still = new Map((await c.readers.track(screen, mediaHash)).frames.map((f) => [f.frame, f.corners]));
  const reference = still.get(screen.recipe.referenceFrame);
  if (!reference)
    throw new ApiError(422, 'invalid', `"${screen.recipe.name}" has no track on its reference frame; follow it first.`);
  const screens = track.screens.map((s) => ({
    ...s,
    referenceFrame: s.referenceFrame + from,
    frames: s.frames.flatMap((f) => {
      const there = still.get(f.frame + from);
      return there ? [{ ...f, frame: f.frame + from, corners: mapQuad(quadToQuad(reference, there), f.corners) }] : [];
    }),
  }));
  const lost =
    track.screens.reduce((n, s) => n + s.frames.length, 0) - screens.reduce((n, s) => n + s.frames.length, 0);
  if (lost > 0)
    notes.push(
      `${lost} ${lost === 1 ? 'frame is' : 'frames are'} left out, on which "${screen.recipe.name}" did not hold the plate still.`,
    );
  notes.push(`Composed with the motion of "${screen.recipe.name}".`);
  return { ...track, screens };
}

/** @param body the request as it came, JSON in UTF-8 */
export async function importTrack(c: Context, shotId: number, body: Uint8Array): Promise<Imported> {
  const {
    media: { probe, frameCount },
  } = await readyPlate(c, shotId);
  const plate = plateInfo(probe, frameCount);
  const { asked, header, columns, track: own, ...told } = await c.readers.imported(body, plate, frameCount);
  const notes = [...told.notes];
  if (!own) return { notes, header, columns, found: [], screens: [] };
  const sized = asked.as === 'table' ? own : rescaled(own, plate.width, plate.height, notes);
  const track = asked.onto ? await composed(c, shotId, sized, asked.onto, notes) : sized;
  const found = track.screens
    .map((s) => ({
      name: s.name,
      frames: s.frames.filter((f) => f.frame < frameCount).map(({ frame, corners }) => ({ frame, corners })),
    }))
    .filter((s) => s.frames.length > 0);
  if (found.length === 0)
    throw new ApiError(422, 'invalid', `The file has no frame of this plate, which has frames 0 to ${frameCount - 1}.`);
  const long = found.find((s) => s.frames.length > MOST);
  if (long)
    throw new ApiError(
      422,
      'invalid',
      `"${long.name}" has ${long.frames.length} frames; at most ${MOST} are taken at once. Bring in a shorter range.`,
    );
  if (asked.look) return { notes, header, columns, found, screens: [] };
  const screens: ScreenRow[] = [];
  for (const s of found) {
    const wanted = track.screens.find((x) => x.name === s.name)!.referenceFrame;
    const first = s.frames.find((f) => f.frame === wanted) ?? s.frames[0]!;
    const row = await createScreen(c, shotId, {
      format: 'yarlop-screen',
      version: 1,
      name: s.name,
      referenceFrame: first.frame,
      pin: first.corners,
      evidence: ['hand'],
      hand: s.frames.filter((f) => f !== first),
    });
    screens.push(row);
    if (s.frames.length > 1) await startFollow(c, row.id, { from: s.frames[0]!.frame, to: s.frames.at(-1)!.frame });
  }
  return { notes, header, columns, found, screens };
}
