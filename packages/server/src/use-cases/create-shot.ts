import { ApiError, notFound } from '../api-error';
import type { Context } from '../context';
import type { ShotRow } from '../rows';
import * as shots from '../sql/shots';
import * as taken from '../sql/taken-uploads';
import { findProduction } from './find-production';
import type { Upload } from './take-upload';
import { findTaken, takeUpload, withUpload } from './take-upload';
import type { SetColour } from './plate-colour';
import { withColour } from './plate-colour';

/** A shot of what was uploaded; asked twice of the same upload, the same shot. */
export async function createShot(c: Context, productionId: number, name: string, upload: Upload): Promise<ShotRow> {
  await findProduction(c, productionId);
  return withUpload(c, upload, async () => {
    const before = await findTaken(c, upload);
    if (before?.shotId) return findShot(c, before.shotId);
    const row = await takeUpload(c, upload);
    const shot = await c.db.transaction(async (t) => {
      const { insertId } = await t.run(shots.insertShot, [productionId, name, row.hash, row.frameCount - 1]);
      await t.run(taken.becameShot, [insertId, upload.upload]);
      return insertId;
    });
    return findShot(c, shot);
  });
}

export async function findShot(c: Context, id: number): Promise<ShotRow> {
  const shot = await c.db.one<ShotRow>(shots.findShot, [id]);
  if (!shot) throw notFound('The shot');
  if (shot.isBinned)
    throw new ApiError(
      410,
      'in-bin',
      `"${shot.name}" was deleted and lies in the bin; take it out again under "Space and bin".`,
    );
  return { ...shot, probe: withColour(shot.probe, shot.colour) };
}

/** @throws ApiError 409 when another window saved first */
export async function saveShot(
  c: Context,
  id: number,
  revision: number,
  part: {
    readonly name?: string | undefined;
    readonly workingRange?: readonly number[] | undefined;
    readonly colour?: SetColour | undefined;
  },
): Promise<ShotRow> {
  const shot = await findShot(c, id);
  const [from, to] = (part.workingRange ?? [shot.rangeFrom, shot.rangeTo]) as [number, number];
  const colour = part.colour ?? shot.colour;
  if (from > to || to >= shot.frameCount)
    throw new ApiError(
      422,
      'out-of-range',
      `The working range ${from} to ${to} must rise and lie within frames 0 to ${shot.frameCount - 1}.`,
    );
  const { affectedRows } = await c.db.run(shots.saveShot, [
    part.name ?? shot.name,
    from,
    to,
    colour && Object.keys(colour).length > 0 ? JSON.stringify(colour) : null,
    id,
    revision,
  ]);
  if (affectedRows === 0)
    throw new ApiError(
      409,
      'stale',
      `The shot was saved elsewhere (it is at revision ${shot.revision}, yours started from ${revision}); nothing was overwritten.`,
      shot,
    );
  return findShot(c, id);
}

/** As many as a first page has room for. */
const RECENT = 6;

/** The shots that were worked on last, the latest first. */
export function recentShots(c: Context): Promise<object[]> {
  return c.db.all(shots.recentShots, [RECENT]);
}
