/** What goes into the solving of a camera, and how good it is in words. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import { errorOver } from '@yarlop/core/camera/camera-report';
import type { Outline } from '@yarlop/core/camera/left-out';
import { shortestSide } from '@yarlop/core/geometry/quad';
import { grownPin } from '@yarlop/core/pin/inset';
import { InputError } from './pipeline-error';
import type { CameraOutcome } from './solve-camera';

/** Share of its shortest side by which a Screen's outline is widened, so that its bezel is left out with it. By trial. */
const BEZEL = 0.15;

/** @throws InputError for frames that the plate does not have */
export function assertCameraRange([from, to]: readonly [number, number], frameCount: number): void {
  if (from < 0 || to >= frameCount || from > to)
    throw new InputError(
      `the range ${from} to ${to} must lie within the plate's frames 0 to ${frameCount - 1}; change --from or --to.`,
    );
}

/** Outlines of Screens that are left out, on their reference frames. @throws InputError for one outside the range */
export function outlinesOfScreens(screens: readonly ScreenFile[], [from, to]: readonly [number, number]): Outline[] {
  return screens.flatMap(({ name, referenceFrame, pin, patches }) => {
    if (referenceFrame < from || referenceFrame > to)
      throw new InputError(
        `the reference frame ${referenceFrame} of "${name}" lies outside the range ${from} to ${to}; change --from or --to.`,
      );
    const drawn = (patches ?? []).map((p) => p.points);
    return [grownPin(pin, BEZEL * shortestSide(pin)), ...drawn].map((points) => ({ frame: referenceFrame, points }));
  });
}

/** Radial term on the half diagonal below which nobody sees a bow. By trial. */
const LEAST_BOW = 0.003;

/** How good a camera is, in a sentence. */
export function toldCamera({ file, traits }: CameraOutcome): string {
  if (!traits || file.frames.length === 0) return 'no camera was found';
  const rms = errorOver(file.frames);
  const focals = file.frames.map((f) => f.focal);
  const [low, high] = [Math.min(...focals), Math.max(...focals)];
  const sigma = traits.focalSigma === null ? '' : ` within ${(100 * traits.focalSigma).toFixed(1)} %`;
  const focal = traits.isZoom ? `${low.toFixed(1)} to ${high.toFixed(1)} px (it zooms)` : `${low.toFixed(1)} px`;
  const kind = file.kind === 'tripod' ? 'a camera that only turns' : 'a camera that moves';
  const k1 = file.lens.radial[0];
  const bow =
    Math.abs(k1) < LEAST_BOW ? '; the lens hardly bows' : `; the lens bows by ${k1.toFixed(3)} on the half diagonal`;
  const rolling = traits.isRolling ? '; its shutter rolls' : '';
  return `${kind}: ${file.frames.length} frames by ${file.points.length} points, ${rms.toFixed(2)} px rms; focal length ${focal}${sigma}${bow}${rolling}`;
}
