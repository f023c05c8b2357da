/** Makes the pictures that the viewer shows: fetches a plate frame, lays fills in with the core's renderer, off the page's thread. */
import { expose, transfer } from 'comlink';
import type { FillPyramid } from '@yarlop/core/dress/fill-pyramid';
import { fillPyramid } from '@yarlop/core/dress/fill-pyramid';
import { Renderer } from '@yarlop/core/dress/render';
import { boundsOf } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { CardKind } from '@yarlop/core/proof/proof-card';
import { proofCard } from '@yarlop/core/proof/proof-card';

export interface LayerRequest {
  /** corners in plate px */
  readonly corners: Quad;
  /** a picture's address, or a proof card of this many px */
  readonly fill: { readonly url: string } | { readonly card: readonly [number, number]; readonly kind: CardKind; readonly opacity: number };
}

export interface PictureRequest {
  readonly url: string;
  /** plate px a picture px: proxies are smaller than the plate */
  readonly plateWidth: number;
  readonly layers: readonly LayerRequest[];
}

const renderer = new Renderer(), fills = new Map<string, FillPyramid>(), MOST_FILLS = 12;

async function load(url: string): Promise<ImageBitmap> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(((await response.json().catch(() => null)) as { message?: string } | null)?.message ?? `The picture could not be loaded (${response.status}).`);
  return createImageBitmap(await response.blob(), { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
}

async function fillFor(f: LayerRequest['fill']): Promise<FillPyramid> {
  const key = 'url' in f ? f.url : `card ${f.kind} ${f.opacity} ${f.card.join('x')}`;
  const known = fills.get(key);
  if (known) return known;
  let made: FillPyramid;
  if ('card' in f) made = fillPyramid(proofCard(f.card[0], f.card[1], f.kind, f.opacity));
  else {
    const bitmap = await load(f.url), canvas = new OffscreenCanvas(bitmap.width, bitmap.height), g = canvas.getContext('2d')!;
    g.drawImage(bitmap, 0, 0);
    const { data } = g.getImageData(0, 0, bitmap.width, bitmap.height);
    made = fillPyramid({ width: bitmap.width, height: bitmap.height, channels: 4, data });
    bitmap.close();
  }
  if (fills.size >= MOST_FILLS) fills.delete(fills.keys().next().value!);
  fills.set(key, made);
  return made;
}

/** The region of a canvas that a pin touches goes through the renderer; the rest is never read. */
function lay(g: OffscreenCanvasRenderingContext2D, corners: Quad, fill: FillPyramid): void {
  const b = boundsOf(corners), { width, height } = g.canvas;
  const x0 = Math.max(0, Math.floor(b.x0 - 2)), y0 = Math.max(0, Math.floor(b.y0 - 2));
  const w = Math.min(width, Math.ceil(b.x1 + 2)) - x0, h = Math.min(height, Math.ceil(b.y1 + 2)) - y0;
  if (w <= 0 || h <= 0) return;
  const image = g.getImageData(x0, y0, w, h);
  renderer.over({ width: w, height: h, channels: 4, data: image.data }, fill, corners.map(([x, y]) => [x - x0, y - y0]) as unknown as Quad);
  g.putImageData(image, x0, y0);
}

/** Plates that things were laid over last: while something is dragged about, the same one is asked for again and again. */
const plates = new Map<string, Promise<ImageBitmap>>(), MOST_PLATES = 2;
function plateFor(url: string): Promise<ImageBitmap> {
  const known = plates.get(url) ?? load(url);
  plates.delete(url);
  plates.set(url, known);
  known.catch(() => plates.delete(url));
  for (const [old, b] of [...plates].slice(0, Math.max(0, plates.size - MOST_PLATES))) {
    plates.delete(old);
    void b.then((x) => x.close()).catch(() => {});
  }
  return known;
}

const service = {
  async picture(r: PictureRequest): Promise<ImageBitmap> {
    if (r.layers.length === 0) {
      const bare = await load(r.url);
      return transfer(bare, [bare]);
    }
    const plate = await plateFor(r.url);
    const canvas = new OffscreenCanvas(plate.width, plate.height), g = canvas.getContext('2d', { willReadFrequently: true })!;
    g.drawImage(plate, 0, 0);
    const k = plate.width / r.plateWidth;
    for (const layer of r.layers) lay(g, layer.corners.map(([x, y]) => [x * k, y * k]) as unknown as Quad, await fillFor(layer.fill));
    const out = canvas.transferToImageBitmap();
    return transfer(out, [out]);
  },
};

export type RenderService = typeof service;
expose(service);
