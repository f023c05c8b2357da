/**
 * A plate opened for work without a server: probed, its luma decoded to a temporary file that goes when it is closed.
 */
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Mix } from '@yarlop/core/follow/picture/reading';
import type { Raster } from '@yarlop/core/image/image';
import { extractLuma } from '@yarlop/media/ingest';
import { LumaFile } from '@yarlop/media/luma-file';
import type { Probe } from '@yarlop/media/probe';
import { assertOneSize } from '@yarlop/media/one-size';
import { probe } from '@yarlop/media/probe';
import type { Source } from '@yarlop/media/source';
import { openSource } from '@yarlop/media/source';
import type { LumaPlace } from './threads';
import type { PlateInfo } from '@yarlop/core/track';

export interface OpenPlate {
  readonly source: Source;
  readonly probe: Probe;
  close(): Promise<void>;
}

/** Opens a plate: a clip, a folder of numbered pictures or a pattern of them. @throws InputError when it cannot be read */
export async function openPlate(path: string): Promise<OpenPlate> {
  const source = await openSource(path);
  try {
    const found = await probe(source);
    await assertOneSize(source);
    return { source, probe: found, close: () => source.dispose() };
  } catch (e) {
    await source.dispose();
    throw e;
  }
}

export interface LumaOptions {
  /** of the channels, instead of luma */
  readonly mix?: Mix;
  /** frames that are wanted in colour as well */
  readonly stills?: readonly number[];
}

/** @param work also gets the stills by frame */
export async function withLuma<T>(
  plate: OpenPlate,
  cancelled: () => boolean,
  work: (luma: LumaFile, at: LumaPlace, stills: ReadonlyMap<number, Raster>) => Promise<T>,
  o: LumaOptions = {},
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-luma-'));
  try {
    const path = join(folder, 'luma.raw');
    const { width, height, bitDepth } = plate.probe;
    const wanted = [...new Set(o.stills)].map((frame) => ({ frame, path: join(folder, `still-${frame}.raw`) }));
    await extractLuma(plate.source, plate.probe, path, cancelled, { ...(o.mix ? { mix: o.mix } : {}), stills: wanted });
    const stills = new Map<number, Raster>();
    for (const s of wanted) {
      const b = await readFile(s.path);
      if (b.length === width * height * 3 * (bitDepth > 8 ? 2 : 1))
        stills.set(s.frame, {
          width,
          height,
          channels: 3,
          data: bitDepth > 8 ? new Uint16Array(b.buffer, b.byteOffset, b.length / 2) : b,
        });
    }
    const luma = await LumaFile.open(path, width, height, bitDepth);
    try {
      return await work(luma, { path, width, height, bitDepth }, stills);
    } finally {
      await luma.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** What a track says of its plate. @param frameCount where fewer were there than the file promises */
export function plateInfo(p: Probe, frameCount = p.frameCount): PlateInfo {
  return {
    name: p.name,
    width: p.width,
    height: p.height,
    frameRate: p.frameRate,
    firstFrame: p.firstFrame,
    frameCount,
  };
}
