import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { writeCameraJson } from '@yarlop/core/formats/camera-json';
import { openPlate, plateInfo, withLuma } from '@yarlop/pipeline/plate';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { assertCameraRange, outlinesOfScreens, toldCamera } from '@yarlop/pipeline/camera-job';
import { cameraOf } from '@yarlop/pipeline/solve-camera';
import { readJson } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { interruption } from './interruption';
import { Progress } from './progress';

export interface CameraOptions {
  out: string;
  ignore?: string[];
  focal?: number;
  lens?: number[];
  tripod?: boolean;
  from?: number;
  to?: number;
  progress?: boolean;
}

const isStopped = (): boolean => interruption.requested;

function tellStops(file: CameraFile): void {
  for (const s of file.stopped ?? []) process.stderr.write(`yarlop: camera: ${s.reason}\n`);
}

/** Solves the camera of the whole scene. @returns the exit status */
export async function cameraCommand(path: string, o: CameraOptions): Promise<number> {
  const plate = await openPlate(path);
  try {
    const { probe } = plate;
    const from = o.from ?? 0;
    const to = o.to ?? probe.frameCount - 1;
    assertCameraRange([from, to], probe.frameCount);
    const ignored = await Promise.all((o.ignore ?? []).map(async (f) => parseScreen(await readJson(f), f)));
    const outlines = outlinesOfScreens(ignored, [from, to]);
    const outcome = await withLuma(plate, isStopped, (luma) => {
      const last = Math.min(to, luma.frameCount - 1);
      const progress = new Progress('camera', last - from + 1, o.progress ?? false);
      const job = {
        plate: plateInfo(probe, luma.frameCount),
        from,
        to: last,
        read: (frame: number) => luma.read(frame),
        outlines,
        known: {
          ...(o.focal ? { focal: o.focal } : {}),
          ...(o.tripod ? { kind: 'tripod' as const } : {}),
          ...(o.lens ? { lens: { k1: o.lens[0]!, k2: o.lens[1]! } } : {}),
        },
      };
      const program = new URL('./camera-thread.mjs', import.meta.url);
      return cameraOf(job, program, ({ frame }) => progress.frame(frame), isStopped);
    });
    if (!outcome) return 130;
    await writeWhole(o.out, writeCameraJson(outcome.file));
    process.stdout.write(`${toldCamera(outcome)}\n`);
    tellStops(outcome.file);
    return outcome.file.stopped ? 3 : 0;
  } finally {
    await plate.close();
  }
}
