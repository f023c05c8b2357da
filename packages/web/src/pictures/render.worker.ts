/**
 * Makes the pictures that the viewer shows: fetches a plate frame, lays fills in with the core's renderer, off the
 * page's thread. What is laid over the plate is handed out as the rectangle that it changes.
 */
import { LRUCache } from 'lru-cache';
import { expose, transfer } from 'comlink';
import type { CubeTable } from '@yarlop/core/dress/colour/cube-table';
import { parseCube, throughTable } from '@yarlop/core/dress/colour/cube-table';
import { makeFill } from '@yarlop/core/dress/content/made-fill';
import type { Layer, Show, Touched } from '@yarlop/core/dress/render';
import { encode, encodingTable } from '@yarlop/core/dress/colour/transfer';
import type { FillPyramid, LinearPicture } from '@yarlop/core/dress/fill/fill-pyramid';
import { bendLight, fillPyramid, noFill, pyramidOf } from '@yarlop/core/dress/fill/fill-pyramid';
import { Renderer } from '@yarlop/core/dress/render';
import type { Raster } from '@yarlop/core/image/image';
import { reach } from '../api';
import { flattenColour } from '@yarlop/core/proof/flat-view';
import { proofCard } from '@yarlop/core/proof/proof-card';
import type {
  CutOut,
  LayerRequest,
  MadeRequest,
  Patch,
  PictureFill,
  PictureParts,
  PictureRequest,
  StillRequest,
  WantedParts,
} from '../shared/picture-request';
import { isAllPatch } from '../shared/picture-request';
import { letters } from './letters';
import { showDifference, showElement, showOverlay } from './kinds-of-show';
import { allShrunk, scaled, shrunk } from './shrunk';

const renderer = new Renderer();
/** Fills that are kept in light. */
const MOST_FILLS = 12;
const fills = new LRUCache<string, FillPyramid>({ max: MOST_FILLS });

/** Pixels are kept as they come. */
const AS_IT_IS = { colorSpaceConversion: 'none', premultiplyAlpha: 'none' } as const;

/** @param most px of width, where less than all is enough */
async function load(url: string, most?: number): Promise<ImageBitmap> {
  const response = await reach(url);
  if (!response.ok)
    throw new Error(
      ((await response.json().catch(() => null)) as { message?: string } | null)?.message ??
        `The picture could not be loaded (${response.status}).`,
    );
  const size = most === undefined ? {} : ({ resizeWidth: most, resizeQuality: 'high' } as const);
  return createImageBitmap(await response.blob(), { ...AS_IT_IS, ...size });
}

const tables = new Map<string, Promise<CubeTable>>();
function tableFor(hash: string): Promise<CubeTable> {
  const known =
    tables.get(hash) ??
    reach(`/api/tables/${hash}.cube`).then(async (r) =>
      r.ok ? parseCube(await r.text()) : Promise.reject(new Error('The colour table does not exist any more.')),
    );
  tables.set(hash, known);
  known.catch(() => tables.delete(hash));
  return known;
}

/** Fills that were used last, by what they were made from. */
async function kept(key: string, make: () => Promise<FillPyramid>): Promise<FillPyramid> {
  const known = fills.get(key);
  if (known) return known;
  const made = await make();
  fills.set(key, made);
  return made;
}

function dataOf(bitmap: ImageBitmap): ImageData {
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const g = canvas.getContext('2d', { willReadFrequently: true })!;
  g.drawImage(bitmap, 0, 0);
  return g.getImageData(0, 0, bitmap.width, bitmap.height);
}

function pictureFill(f: PictureFill): Promise<FillPyramid> {
  return kept(JSON.stringify(f), async () => {
    const bitmap = await load(f.url);
    const { width, height, data } = dataOf(bitmap);
    bitmap.close();
    const table = f.table ? await tableFor(f.table) : undefined;
    return fillPyramid({ width, height, channels: 4, data }, { ...f.reading, table });
  });
}

async function fillFor(f: LayerRequest['fill']): Promise<FillPyramid> {
  if ('url' in f) return pictureFill(f);
  if ('nothing' in f) return noFill();
  if ('card' in f)
    return kept(JSON.stringify(f), async () => fillPyramid(proofCard(f.card[0], f.card[1], f.kind, f.opacity)));
  return kept(JSON.stringify(f), async () => pyramidOf(await madeLight(f)));
}

/** What is made up, in light. */
async function madeLight(f: MadeRequest): Promise<LinearPicture> {
  const background = f.background && (await pictureFill(f.background));
  const foreground = f.foreground && (await pictureFill(f.foreground));
  const layers = await Promise.all(f.layers.map((l) => l && pictureFill(l)));
  const parts = { background, foreground, layers, letters: await letters() };
  return bendLight(makeFill(f.made, f.frame, f.size, parts, { curve: f.curve }), f.gamma);
}

/** Other frames of the plate, lossless, as large as the picture. @param url of any of its frames */
async function stillsOf(
  stills: readonly StillRequest[],
  url: string,
  width: number,
  k: number,
): Promise<NonNullable<Layer['stills']>> {
  const [media] = url.split(/\/(?:frames|proxy)\//);
  const made = stills.map(async ({ frame, own, others }) => {
    const { data, ...size } = await plateFor(`${media}/frames/${frame}.png`, k === 1 ? undefined : width);
    const picture: Raster = { width: size.width, height: size.height, channels: 4, data };
    return [frame, { picture, own: own && shrunk(own, k), others: allShrunk(others, k) }] as const;
  });
  return Object.fromEntries(await Promise.all(made));
}

/** The layer in px of a picture that has `k` of them a plate px. */
async function layerOf(l: LayerRequest, k: number, { url, plate }: { url: string; plate: ImageData }): Promise<Layer> {
  const { before, after, shutter, fill, corners, lens, others, stills, ...rest } = l;
  const { width, height } = plate;
  return {
    ...rest,
    fill: await fillFor(fill),
    corners: scaled(corners, k)!,
    lens: lens ? { radial: lens, width, height } : null,
    before: scaled(before, k),
    after: scaled(after, k),
    ...(shutter === null || shutter === undefined ? {} : { shutter }),
    ...(others ? { others: allShrunk(others, k) } : {}),
    ...(stills ? { stills: await stillsOf(stills, url, width, k) } : {}),
  };
}

async function throughView(data: Uint8ClampedArray, table: string): Promise<void> {
  const t = await tableFor(table);
  const rgb = new Float32Array(3);
  for (let i = 0; i < data.length; i += 4) {
    throughTable(t, data[i]! / 255, data[i + 1]! / 255, data[i + 2]! / 255, rgb);
    for (let c = 0; c < 3; c++) data[i + c] = 255 * rgb[c]!;
  }
}

/**
 * Plates that things were laid over last, as pixels: while something is dragged about, the same one is asked for again
 * and again, and a bitmap of a JPEG would be decoded at each drawing.
 */
const plates = new Map<string, Promise<ImageData>>();
/** Plates that are kept. */
const MOST_PLATES = 6;
function plateFor(url: string, most: number | undefined): Promise<ImageData> {
  const key = `${most ?? ''} ${url}`;
  const known =
    plates.get(key) ??
    load(url, most).then((b) => {
      const pixels = dataOf(b);
      b.close();
      return pixels;
    });
  plates.delete(key);
  plates.set(key, known);
  known.catch(() => plates.delete(key));
  for (const old of [...plates.keys()].slice(0, Math.max(0, plates.size - MOST_PLATES))) plates.delete(old);
  return known;
}

/** The picture with its layers, in the plate's pixels, and the rectangle that may have changed. */
async function laidOver(r: PictureRequest, plate: ImageData): Promise<{ image: ImageData; touched: Touched | null }> {
  const { width, height } = plate;
  const k = width / r.plateWidth;
  const layers: Layer[] = [];
  for (const l of r.layers) layers.push(await layerOf(l, k, { url: r.url, plate }));
  const image = new ImageData(plate.data.slice(), width, height);
  const picture: Raster = { width, height, channels: 4, data: image.data };
  let own: Show;
  if (r.show === 'difference') own = 'dressed';
  else if (r.show === 'overlay') own = 'matte';
  else own = r.show;
  const apart = r.show === 'element' || r.show === 'overlay';
  // An element lies on nothing, and a matte that is laid over the plate is black outside its region.
  if (apart) image.data.fill(0);
  const touched = renderer.render(apart ? { ...picture, data: plate.data } : picture, layers, picture, {
    transfer: r.transfer,
    pixel: k,
    show: own,
  });
  if (r.show === 'difference') showDifference(image.data, plate.data);
  if (r.show === 'overlay') showOverlay(image.data, plate.data);
  if (r.show === 'element') showElement(image.data, width);
  if (r.show === 'overlay') for (let i = 3; i < image.data.length; i += 4) image.data[i] = 255;
  if (r.table) await throughView(image.data, r.table);
  return { image, touched };
}

/** A Screen of the picture laid flat, whole in px of its area. */
async function flatOf({ area, corners }: NonNullable<PictureRequest['flat']>, image: ImageData): Promise<Patch> {
  const out = new ImageData(area.width, area.height);
  flattenColour(image, area, corners, out.data);
  return { bitmap: await createImageBitmap(out, AS_IT_IS), x: 0, y: 0 };
}

async function patchOf(r: PictureRequest, plate: ImageData): Promise<Patch | null> {
  const { image, touched } = await laidOver(r, plate);
  if (r.flat) return flatOf(r.flat, image);
  const whole = { x: 0, y: 0, width: image.width, height: image.height };
  const region = r.window ?? (isAllPatch(r) ? whole : touched);
  if (!region) return null;
  const { x, y, width, height } = region;
  return { bitmap: await createImageBitmap(image, x, y, width, height, AS_IT_IS), x, y };
}

/** A plate of which only a rectangle is there, kept from frame to frame: nothing reads what lies beyond. */
let room: ImageData | null = null;
function plateWith(cut: CutOut): ImageData {
  const [width, height] = cut.of;
  if (room?.width !== width || room.height !== height) {
    room = new ImageData(width, height);
    room.data.fill(255);
  }
  for (let y = 0, i = 0; y < cut.height; y++)
    for (let x = 0, k = 4 * ((cut.y + y) * width + cut.x); x < cut.width; x++, k += 4, i += 3) {
      room.data[k] = cut.data[i]!;
      room.data[k + 1] = cut.data[i + 1]!;
      room.data[k + 2] = cut.data[i + 2]!;
    }
  return room;
}

const SEEN = encodingTable(255);

/** A picture in light, opaque, as 8 bits of the screen's own curve. */
async function seenOf({ width, height, data }: LinearPicture): Promise<ImageBitmap> {
  const image = new ImageData(width, height);
  image.data.fill(255);
  for (let i = 0; i < data.length; i += 4) for (let c = i; c < i + 3; c++) image.data[c] = encode(SEEN, data[c]!);
  return createImageBitmap(image, AS_IT_IS);
}

const service = {
  /** What is made up, by itself: as it would fill a Screen. */
  async made(f: MadeRequest): Promise<ImageBitmap> {
    const bitmap = await seenOf(await madeLight(f));
    return transfer(bitmap, [bitmap]);
  },
  /** The parts that are asked for, made from one reading of the plate, or from the cut-out of it that is given. */
  async parts(r: PictureRequest, wanted: WantedParts, cut: CutOut | null): Promise<PictureParts> {
    if (cut) {
      const patch = await patchOf(r, plateWith(cut));
      return transfer({ plate: null, patch }, patch ? [patch.bitmap] : []);
    }
    if (!wanted.patch) {
      const bare = await load(r.url, r.most);
      return transfer({ plate: bare, patch: null }, [bare]);
    }
    const pixels = await plateFor(r.url, r.most);
    const patch = wanted.patch ? await patchOf(r, pixels) : null;
    const plate = wanted.plate ? await createImageBitmap(pixels, AS_IT_IS) : null;
    return transfer(
      { plate, patch },
      [plate, patch?.bitmap].filter((b) => b instanceof ImageBitmap),
    );
  },
};

export type RenderService = typeof service;
expose(service);
