import sharp from 'sharp';
import { mapQuad } from '../../core/src/geometry/quad';
import { passedBytes, plateBytes, recipe, truthAt } from '../../server/test/builders/plate';
import type { World } from './fixture';

const FRAMES = 24;
/** The truth, placed by hand: what is done with a fill does not ask how its Screen was followed. */
const hand = Array.from({ length: FRAMES }, (_, frame) => ({
  frame,
  corners: mapQuad(truthAt(frame), recipe.pin),
})).filter((k) => k.frame !== recipe.referenceFrame);

/** A Screen that is known on every frame, with a picture in its slot. @param passed something passes before it */
export async function filled(
  { server }: World,
  passed = false,
): Promise<{ shot: number; screen: number; fill: string }> {
  const made = await server.shot(passed ? await passedBytes(FRAMES) : await plateBytes(FRAMES, 0, true));
  const { id } = await server.upload(
    await sharp({ create: { width: 120, height: 80, channels: 3, background: { r: 230, g: 200, b: 60 } } })
      .png()
      .toBuffer(),
  );
  const fill = (
    await server.request<{ hash: string }>('POST', '/media', { upload: id, fileName: `gold-${made.shot}.png` })
  ).body.hash;
  await server.until(
    async () => (await server.request<{ state: string }>('GET', `/media/${fill}`)).body.state === 'ready',
  );
  const { body } = await server.request<{ id: number }>('POST', `/shots/${made.shot}/screens`, {
    ...recipe,
    name: 'dressed',
    evidence: ['hand'],
    hand,
    fill: { media: fill },
  });
  const job = await server.request<{ id: number }>('POST', `/screens/${body.id}/follow`, {
    from: 0,
    to: FRAMES - 1,
  });
  await server.until(
    async () =>
      (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ) ?? null,
  );
  return { shot: made.shot, screen: body.id, fill };
}
