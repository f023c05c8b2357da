/** What would help a camera that was solved, in sentences. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { errorOver } from '@yarlop/core/camera/camera-report';

/** Px at 1920 wide of mean error that is more than a good camera has. By trial. */
const ROUGH = 0.8;
/** Points on a frame below which it stands on little. By trial. */
const FEW = 16;

export function adviceOn(file: CameraFile): string[] {
  const rough = errorOver(file.frames) * (1920 / file.plate.width) > ROUGH;
  const poor = file.frames.filter((f) => f.points < FEW).map((f) => f.frame);
  return [
    ...(rough
      ? ['Its points agree only roughly: outline what moves by itself, or drop the points that miss most.']
      : []),
    ...(poor.length > 0
      ? [
          `${poor.length === 1 ? 'One frame stands' : `${poor.length} frames stand`} on fewer than ${FEW} points (from frame ${poor[0]}): a Screen is known less well there.`,
        ]
      : []),
  ];
}
