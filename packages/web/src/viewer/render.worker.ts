/** Makes the pictures that the viewer shows: fetches a plate frame, lays fills in with the core's renderer, off the page's thread. */
import { expose, transfer } from 'comlink';
import type { Transfer } from '@yarlop/core/dress/transfer';
import type { Layer, Show } from '@yarlop/core/dress/render';
import type { Matrix3 } from '@yarlop/core/geometry/matrix3';
import { multiply, scaling } from '@yarlop/core/geometry/matrix3';
import type { FillPyramid, FillReading } from '@yarlop/core/dress/fill-pyramid';
import { fillPyramid } from '@yarlop/core/dress/fill-pyramid';
import { Renderer } from '@yarlop/core/dress/render';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import type { CardKind } from '@yarlop/core/proof/proof-card';
import { proofCard } from '@yarlop/core/proof/proof-card';

/** A layer as the renderer takes it, in plate px, with its fill by address. */
export interface LayerRequest extends Pick<Layer, 'pin' | 'referenceFrame' | 'dress' | 'frame' | 'frameRate'> {
  readonly corners: Quad;
  readonly before?: Quad | null;
  readonly after?: Quad | null;
  readonly plane?: Matrix3 | null;
  readonly shutter?: number | null;
  /** radial term, on half the picture's width */
  readonly lens?: number;
  /** a picture's address, or a proof card of this many px */
  readonly fill: { readonly url: string; readonly reading: FillReading } | { readonly card: readonly [number, number]; readonly kind: CardKind; readonly opacity: number };
}

export interface PictureRequest {
  readonly url: string;
  /** plate px a picture px: proxies are smaller than the plate */
  readonly plateWidth: number;
  readonly layers: readonly LayerRequest[];
  readonly transfer: Transfer;
  readonly show: Show;
}

const renderer = new Renderer(), fills = new Map<string, FillPyramid>(), MOST_FILLS = 12;

async function load(url: string): Promise<ImageBitmap> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(((await response.json().catch(() => null)) as { message?: string } | null)?.message ?? `The picture could not be loaded (${response.status}).`);
  return createImageBitmap(await response.blob(), { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
}

async function fillFor(f: LayerRequest['fill']): Promise<FillPyramid> {
  const key = 'url' in f ? `${f.url} ${JSON.stringify(f.reading)}` : `card ${f.kind} ${f.opacity} ${f.card.join('x')}`;
  const known = fills.get(key);
  if (known) return known;
  let made: FillPyramid;
  if ('card' in f) made = fillPyramid(proofCard(f.card[0], f.card[1], f.kind, f.opacity));
  else {
    const bitmap = await load(f.url), canvas = new OffscreenCanvas(bitmap.width, bitmap.height), g = canvas.getContext('2d')!;
    g.drawImage(bitmap, 0, 0);
    const { data } = g.getImageData(0, 0, bitmap.width, bitmap.height);
    made = fillPyramid({ width: bitmap.width, height: bitmap.height, channels: 4, data }, f.reading);
    bitmap.close();
  }
  if (fills.size >= MOST_FILLS) fills.delete(fills.keys().next().value!);
  fills.set(key, made);
  return made;
}

const scaled = (q: Quad | null | undefined, k: number): Quad | null => (q ? (q.map(([x, y]) => [x * k, y * k]) as unknown as Quad) : null);

/** The layer in px of a picture that has `k` of them a plate px. */
async function layerOf(l: LayerRequest, k: number, width: number, height: number): Promise<Layer> {
  const { before, after, plane, shutter, fill, corners, lens, ...rest } = l;
  return { ...rest, fill: await fillFor(fill), corners: scaled(corners, k)!, lens: lens ? { radial: lens, width, height } : null, before: scaled(before, k), after: scaled(after, k), ...(plane ? { plane: multiply(scaling(k), plane) } : {}), ...(shutter === null || shutter === undefined ? {} : { shutter }) };
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
    const { width, height } = plate, k = width / r.plateWidth, layers: Layer[] = [];
    for (const l of r.layers) layers.push(await layerOf(l, k, width, height));
    const canvas = new OffscreenCanvas(width, height), g = canvas.getContext('2d', { willReadFrequently: true })!;
    g.drawImage(plate, 0, 0);
    const image = g.getImageData(0, 0, width, height), picture: Raster = { width, height, channels: 4, data: image.data };
    const touched = renderer.render(picture, layers, picture, { transfer: r.transfer, pixel: k, show: r.show });
    if (touched) g.putImageData(image, 0, 0, touched.x, touched.y, touched.width, touched.height);
    const out = canvas.transferToImageBitmap();
    return transfer(out, [out]);
  },
};

export type RenderService = typeof service;
expose(service);
