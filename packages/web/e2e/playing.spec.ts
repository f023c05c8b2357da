import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { filled } from './filled';
import { expect, settled, test } from './fixture';

/** What stands in the view at one moment: the frame, where the plate lies, and the canvas. */
interface Seen {
  readonly frame: number;
  readonly zoom: number;
  readonly left: number;
  readonly top: number;
  /** of plate px that are in the view: x, y, R, G, B */
  readonly pixels: readonly (readonly [number, number, number, number, number])[];
}

/** Looks at `count` different frames while the picture plays. */
function whilePlaying(page: Page, count: number): Promise<Seen[]> {
  return page.evaluate(async (wanted) => {
    const view = document.querySelector<HTMLElement>('[data-test="picture"]')!;
    const canvas = view.querySelector('canvas')!;
    const seen = new Map<number, Seen>();
    while (seen.size < wanted) {
      await new Promise((drawn) => requestAnimationFrame(drawn));
      const { frame, zoom, left, top, lossless } = view.dataset;
      if (lossless !== 'true' || seen.has(Number(frame))) continue;
      const [n, z, x0, y0] = [frame, zoom, left, top].map(Number) as [number, number, number, number];
      const { width, height } = canvas;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, width, height);
      const pixels: Seen['pixels'][number][] = [];
      for (let y = Math.ceil(-y0 / z); y0 + (y + 1) * z < height; y += 3)
        for (let x = Math.ceil(-x0 / z); x0 + (x + 1) * z < width; x += 3) {
          const at = 4 * (Math.floor(y0 + (y + 0.5) * z) * width + Math.floor(x0 + (x + 0.5) * z));
          pixels.push([x, y, data[at]!, data[at + 1]!, data[at + 2]!]);
        }
      seen.set(n, { frame: n, zoom: z, left: x0, top: y0, pixels });
    }
    return [...seen.values()];
  }, count);
}

/** Frames that are shown in a second, over so many ms. */
function shownASecond(page: Page, ms: number): Promise<number> {
  return page.evaluate(async (time) => {
    const view = document.querySelector<HTMLElement>('[data-test="picture"]')!;
    const end = performance.now() + time;
    let shown = 0;
    for (let last = view.dataset['frame']; performance.now() < end;) {
      await new Promise((drawn) => requestAnimationFrame(drawn));
      if (view.dataset['frame'] === last) continue;
      last = view.dataset['frame'];
      shown++;
    }
    return (1000 * shown) / time;
  }, ms);
}

test('the view rides on a corner: it stands still on the page while full pixels play under it', async ({
  page,
  world,
}) => {
  const { server } = world;
  const { shot, screen } = await filled(world);
  const { mediaHash } = (await server.request<{ mediaHash: string }>('GET', `/shots/${shot}`)).body;
  const track = (
    await server.request<{ frames: { frame: number; corners: [number, number][] }[] }>(
      'GET',
      `/screens/${screen}/track`,
    )
  ).body;
  await page.goto(`${server.url}/shots/${shot}/follow`);
  await settled(page, 0);
  // By keyboard: the corner is taken, and held still.
  await page.keyboard.press('3');
  await page.keyboard.press('d');
  await expect(page.getByTestId('ride-on')).toHaveValue('BR');
  await page.keyboard.press('Space');
  const seen = await whilePlaying(page, 4);
  const places = seen.map(({ frame, zoom, left, top }) => {
    const [x, y] = track.frames.find((f) => f.frame === frame)!.corners[2]!;
    return [left + x * zoom, top + y * zoom] as const;
  });
  for (const [x, y] of places) expect(Math.hypot(x - places[0]![0], y - places[0]![1])).toBeLessThan(0.5);
  for (const { frame, zoom, pixels } of seen) {
    expect(zoom).toBe(4);
    const png = await fetch(`${server.url}/api/media/${mediaHash}/frames/${frame}.png`);
    const plate = await sharp(Buffer.from(await png.arrayBuffer()))
      .raw()
      .toBuffer();
    const inPicture = pixels.filter(([x, y]) => x >= 0 && y >= 0 && x < 640 && y < 384);
    expect(inPicture.length).toBeGreaterThan(1000);
    const differences = inPicture.map(([x, y, ...rgb]) =>
      Math.max(...rgb.map((v, c) => Math.abs(v - plate[(y * 640 + x) * 3 + c]!))),
    );
    expect(Math.max(...differences)).toBeLessThanOrEqual(1);
  }
  // Half a second to each side, round and round.
  await page.keyboard.press('Space');
  await page.getByTestId('ride-around').selectOption({ label: '0.5 s to each side' });
  const [from, to] = (await page.getByTestId('ride-frames').textContent())!.split(' to ').map(Number) as [
    number,
    number,
  ];
  await page.keyboard.press('Space');
  for (const { frame } of await whilePlaying(page, Math.min(4, to - from + 1))) {
    expect(frame).toBeGreaterThanOrEqual(from);
    expect(frame).toBeLessThanOrEqual(to);
  }
  await page.getByTestId('ride-on').selectOption({ label: 'nothing' });
  await expect(page.getByTestId('ride-around')).toHaveCount(0);
});

test('a dressed picture that has played once plays like the plate', async ({ page, world }) => {
  const { server } = world;
  const { shot } = await filled(world);
  await page.goto(`${server.url}/shots/${shot}/plate`);
  await settled(page, 0);
  await page.keyboard.press('Space');
  await shownASecond(page, 2000);
  const bare = await shownASecond(page, 2000);
  await page.keyboard.press('Space');
  await page.keyboard.press('Alt+5');
  await page.getByTestId('match-all').waitFor();
  await page.keyboard.press('Space');
  // Every frame was made once: the playhead has come round.
  await expect(async () => {
    expect(await shownASecond(page, 1500)).toBeGreaterThan(0.8 * bare);
  }).toPass({ timeout: 30_000 });
});
