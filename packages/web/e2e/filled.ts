import sharp from 'sharp';
import { plateBytes, recipe } from '../../server/test/builders/plate';
import type { World } from './fixture';

/** A followed Screen with a picture in its slot. */
export async function filled({ server }: World): Promise<{ shot: number; screen: number; fill: string }> {
  const made = await server.shot(await plateBytes(24, 0, true));
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
    fill: { media: fill },
  });
  const job = await server.request<{ id: number }>('POST', `/screens/${body.id}/follow`, { from: 0, to: 23 });
  await server.until(
    async () =>
      (await server.request<{ id: number; state: string }[]>('GET', '/jobs')).body.find(
        (j) => j.id === job.body.id && j.state === 'done',
      ) ?? null,
  );
  return { shot: made.shot, screen: body.id, fill };
}
