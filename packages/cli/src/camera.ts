import type { Outline } from '@yarlop/core/camera/left-out';
import { errorOver } from '@yarlop/core/camera/camera-report';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { writeCameraJson } from '@yarlop/core/formats/camera-json';
import { shortestSide } from '@yarlop/core/geometry/quad';
import { grownPin } from '@yarlop/core/pin/inset';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { openPlate, plateInfo, withLuma } from '@yarlop/pipeline/plate';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import type { CameraOutcome } from '@yarlop/pipeline/solve-camera';
import { cameraOf } from '@yarlop/pipeline/solve-camera';
import { readJson } from '@yarlop/pipeline/track-file';
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { interruption } from './interruption';
import { Progress } from './progress';

export interface CameraOptions {
  out: string;
  ignore?: string[];
  focal?: number;
  tripod?: boolean;
  from?: number;
  to?: number;
  progress?: boolean;
}

const isStopped = (): boolean => interruption.requested;

/** Share of its shortest side by which a Screen's outline is widened, so that its bezel is left out with it. By trial. */
const BEZEL = 0.15;

/** Outlines of the Screens that are left out, on their reference frames. */
async function outlinesOf(files: readonly string[], from: number, to: number): Promise<Outline[]> {
  const screens = await Promise.all(files.map(async (f) => parseScreen(await readJson(f), f)));
  return screens.flatMap(({ name, referenceFrame, pin, patches }) => {
    if (referenceFrame < from || referenceFrame > to)
      throw new InputError(
        `the reference frame ${referenceFrame} of "${name}" lies outside the range ${from} to ${to}; change --from or --to.`,
      );
    const drawn = (patches ?? []).map((p) => p.points);
    return [grownPin(pin, BEZEL * shortestSide(pin)), ...drawn].map((points) => ({ frame: referenceFrame, points }));
  });
}

/** How good a camera is, in a sentence. */
export function told({ file, traits }: CameraOutcome): string {
  if (!traits || file.frames.length === 0) return 'no camera was found';
  const rms = errorOver(file.frames);
  const focals = file.frames.map((f) => f.focal);
  const [low, high] = [Math.min(...focals), Math.max(...focals)];
  const sigma = traits.focalSigma === null ? '' : ` within ${(100 * traits.focalSigma).toFixed(1)} %`;
  const focal = traits.isZoom ? `${low.toFixed(1)} to ${high.toFixed(1)} px (it zooms)` : `${low.toFixed(1)} px`;
  const kind = file.kind === 'tripod' ? 'a camera that only turns' : 'a camera that moves';
  const rolling = traits.isRolling ? '; its shutter rolls' : '';
  return `${kind}: ${file.frames.length} frames by ${file.points.length} points, ${rms.toFixed(2)} px rms; focal length ${focal}${sigma}, lens ${file.lens.radial[0].toFixed(4)}${rolling}`;
}

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
    if (from < 0 || to >= probe.frameCount || from > to)
      throw new InputError(
        `the range ${from} to ${to} must lie within the plate's frames 0 to ${probe.frameCount - 1}; change --from or --to.`,
      );
    const outlines = await outlinesOf(o.ignore ?? [], from, to);
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
        },
      };
      const program = new URL('./camera-thread.mjs', import.meta.url);
      return cameraOf(job, program, ({ frame }) => progress.frame(frame), isStopped);
    });
    if (!outcome) return 130;
    await writeWhole(o.out, writeCameraJson(outcome.file));
    process.stdout.write(`${told(outcome)}\n`);
    tellStops(outcome.file);
    return outcome.file.stopped ? 3 : 0;
  } finally {
    await plate.close();
  }
}
