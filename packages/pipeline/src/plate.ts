/** A plate opened for work without a server: probed, its luma decoded to a temporary file that goes when it is closed. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { extractLuma } from '@yarlop/media/ingest';
import { LumaFile } from '@yarlop/media/luma-file';
import type { Probe } from '@yarlop/media/probe';
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

export async function openPlate(path: string): Promise<OpenPlate> {
  const source = await openSource(path);
  try {
    return { source, probe: await probe(source), close: () => source.dispose() };
  } catch (e) {
    await source.dispose();
    throw e;
  }
}

export async function withLuma<T>(plate: OpenPlate, cancelled: () => boolean, work: (luma: LumaFile, at: LumaPlace) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-luma-'));
  try {
    const path = join(folder, 'luma.raw');
    await extractLuma(plate.source, plate.probe, path, cancelled);
    const { width, height, bitDepth } = plate.probe, luma = await LumaFile.open(path, width, height, bitDepth);
    try {
      return await work(luma, { path, width, height, bitDepth });
    } finally {
      await luma.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export function plateInfo(p: Probe, frameCount = p.frameCount): PlateInfo {
  return { name: p.name, width: p.width, height: p.height, frameRate: p.frameRate, firstFrame: p.firstFrame, frameCount };
}
