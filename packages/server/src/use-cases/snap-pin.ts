/** The pin laid onto the glass on one frame: asked for and answered at once, saved by the person's page. */
import type { Requests } from '@yarlop/contracts/validate';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Snapped } from '@yarlop/core/pin/snap-to-glass';
import type { Context } from '../context';
import { findScreen } from './save-screen';
import { readyPlate } from './ready-plate';

/** @throws ApiError where the plate or frame is not there, or no edge stands out */
export async function snapPin(
  c: Context,
  screenId: number,
  { frame, corners, exclude }: NonNullable<Requests['snap']>,
): Promise<Snapped> {
  const screen = await findScreen(c, screenId);
  const plate = await readyPlate(c, screen.shotId, frame);
  const { lens } = screen.recipe;
  const outcome = await c.desk.ask({
    kind: 'snap',
    ...plate,
    frame,
    corners: corners as unknown as Quad,
    exclude,
    lens: typeof lens === 'number' ? lens : null,
  });
  return (outcome as Extract<typeof outcome, { kind: 'snap' }>).snapped;
}
