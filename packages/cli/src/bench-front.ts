/**
 * `npm run bench:front -- --from FOLDER [NAME ...]`: how well it is found what stands before Screens. The folder holds
 * clips with truth and recipe as `demo:planes` writes them, tracks of `yarlop follow` (NAME.track.json), and mattes of
 * some frames (`demo:planes --mattes`). Prints a table: intersection over union of covers within the pin, the mean error
 * of cover within 5 px of the true edge, and what was found on clips that nothing passes.
 */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { CURVES } from '@yarlop/core/dress/colour/transfer';
import { regionAround } from '@yarlop/core/dress/base/region';
import type { Region } from '@yarlop/core/dress/base/region';
import { coverOf } from '@yarlop/core/dress/front/found-cover';
import { takeFrontApart } from '@yarlop/core/dress/front/front-matte';
import type { FoundFronts } from '@yarlop/core/dress/front/front-search';
import { FrontSearch } from '@yarlop/core/dress/front/front-search';
import { tablesFor, valuesOfRegion } from '@yarlop/core/dress/fill/region-light';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import type { Lens } from '@yarlop/core/geometry/lens';
import { insidePolygon } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import { maxOf } from '@yarlop/core/image/image';
import { decodeRgb } from '@yarlop/media/decode';
import { openPlate } from '@yarlop/pipeline/plate';

const { values, positionals } = parseArgs({ allowPositionals: true, options: { from: { type: 'string' } } });
const folder = values.from ?? '.';

interface Clip {
  readonly name: string;
  readonly factors: Readonly<Record<string, string>>;
  readonly aspect: number;
  readonly lens: Lens | null;
  readonly places: ReadonlyMap<number, Quad>;
  /** frames of which the true matte is kept */
  readonly mattes: readonly number[];
}

interface TrackFile {
  readonly plate: { readonly width: number; readonly height: number };
  readonly screens: readonly {
    readonly lens?: number;
    readonly frames: readonly { readonly frame: number; readonly corners: Quad; readonly evidence: unknown }[];
  }[];
}

const json = <T>(name: string): T => JSON.parse(readFileSync(join(folder, name), 'utf8')) as T;

function clipOf(name: string): Clip {
  const { factors = {} } = json<{ factors?: Record<string, string> }>(`${name}.truth.json`);
  const { pin } = json<{ pin: Quad }>(`${name}.screen.json`);
  const { plate, screens } = json<TrackFile>(`${name}.track.json`);
  const [screen] = screens;
  const radial = screen!.lens ?? 0;
  return {
    name,
    factors,
    aspect: slotAspect(pin),
    lens: radial === 0 ? null : { radial, width: plate.width, height: plate.height },
    places: new Map(screen!.frames.filter((f) => f.evidence).map((f) => [f.frame, f.corners])),
    mattes: readdirSync(folder).flatMap((file) => {
      const own = file.startsWith(`${name}.matte-`) ? /matte-(\d+)\.png$/.exec(file) : null;
      return own ? [Number(own[1])] : [];
    }),
  };
}

async function* picturesOf(path: string): AsyncGenerator<Raster> {
  const plate = await openPlate(path);
  const { source, probe } = plate;
  try {
    yield* decodeRgb(source, probe, { from: 0, count: probe.frameCount, seekable: false });
  } finally {
    await plate.close();
  }
}

async function search(clip: Clip): Promise<FoundFronts | null> {
  const looking = new FrontSearch(clip.aspect);
  let frame = 0;
  for await (const picture of picturesOf(join(folder, `${clip.name}.mp4`))) {
    const corners = clip.places.get(frame);
    if (corners) looking.see(frame, picture, corners, clip.lens);
    frame++;
  }
  return looking.found();
}

/** px to each side of the true edge over which covers are compared, and where it is looked for. */
const BAND = 5;
const NEAR = [
  [BAND, 0],
  [-BAND, 0],
  [0, BAND],
  [0, -BAND],
] as const;
/** Truth below which nothing stands before a pixel: its noise. */
const NOISE = 0.03;

/** Sums over pixels within the pin. */
class Compared {
  private inter = 0;
  private union = 0;
  private off = 0;
  private band = 0;

  add(truth: (x: number, y: number) => number, mine: (x: number, y: number) => number, corners: Quad, r: Region): void {
    for (let y = r.y; y < r.y + r.height; y++)
      for (let x = r.x; x < r.x + r.width; x++) {
        if (!insidePolygon([x + 0.5, y + 0.5], corners)) continue;
        const a = truth(x, y);
        const b = mine(x, y);
        this.inter += Math.min(a, b);
        this.union += Math.max(a, b);
        if (NEAR.every(([i, j]) => truth(x + i, y + j) > 0.5 === a > 0.5)) continue;
        this.off += Math.abs(a - b);
        this.band++;
      }
  }

  get iou(): number {
    return this.inter / this.union;
  }

  get error(): number {
    return this.off / this.band;
  }
}

const { decode } = CURVES.srgb;
/** Scene-linear light of a region. */
function lightOf(picture: Raster, region: Region): Float32Array {
  return valuesOfRegion(picture, region, tablesFor(maxOf(picture), 'srgb').decode, decode);
}

async function matteOf(clip: Clip, frame: number): Promise<Raster> {
  for await (const picture of picturesOf(join(folder, `${clip.name}.matte-${frame}.png`)))
    return { ...picture, data: picture.data.slice() };
  throw new Error(`The matte of frame ${frame} of ${clip.name} is empty.`);
}

async function compare(clip: Clip, found: FoundFronts): Promise<Compared> {
  const compared = new Compared();
  let frame = 0;
  for await (const picture of picturesOf(join(folder, `${clip.name}.mp4`))) {
    const corners = clip.places.get(frame);
    const region = corners && clip.mattes.includes(frame) ? regionAround([corners], 12, picture) : null;
    if (corners && region) {
      const matte = await matteOf(clip, frame);
      const apart = takeFrontApart(lightOf(picture, region), found, { region, corners, lens: clip.lens, frame });
      const truth = (x: number, y: number): number => {
        const i = Math.min(matte.height - 1, Math.max(0, y)) * matte.width + Math.min(matte.width - 1, Math.max(0, x));
        const v = matte.data[i * matte.channels]! / 255;
        return v < NOISE ? 0 : v;
      };
      const mine = (x: number, y: number): number => {
        if (!apart) return 0;
        const { part, alpha } = apart;
        const [i, j] = [x - part.x, y - part.y];
        return i >= 0 && j >= 0 && i < part.width && j < part.height ? alpha[j * part.width + i]! : 0;
      };
      compared.add(truth, mine, corners, region);
    }
    frame++;
  }
  return compared;
}

const names =
  positionals.length > 0 ? positionals : readdirSync(folder).flatMap((f) => /^(.*)\.mp4$/.exec(f)?.[1] ?? []);
process.stdout.write('| clip | shows | cover | frames found | most of the glass | IoU | error at the edge | s |\n');
process.stdout.write('| --- | --- | --- | --- | --- | --- | --- | --- |\n');
for (const name of names) {
  const clip = clipOf(name);
  const from = performance.now();
  const found = await search(clip);
  const seconds = (performance.now() - from) / 1000;
  const cover = found ? coverOf(found) : { frames: 0, most: 0 };
  const compared = found && clip.mattes.length > 0 ? await compare(clip, found) : null;
  const { device = '', shows = '', change = '', cover: passes = '' } = clip.factors;
  const cells = [
    name,
    `${device} ${shows} ${change}`,
    passes,
    cover.frames,
    `${(100 * cover.most).toFixed(1)} %`,
    compared ? compared.iou.toFixed(3) : '',
    compared ? compared.error.toFixed(3) : '',
    seconds.toFixed(1),
  ];
  process.stdout.write(`| ${cells.join(' | ')} |\n`);
}
