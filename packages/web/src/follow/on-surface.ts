/** A new Screen on a surface of the scene: its plane goes through points, and the camera carries it. */
import { DEVICE_SHAPES } from '@yarlop/core/pin/proportions';
import { rectangleOn } from '@yarlop/core/camera/surface';
import type { useCamera } from '../stores/camera';
import { usePlayhead } from '../stores/playhead';
import type { useShot } from '../stores/shot';

/** Said where the points do not tell a surface. */
const NO_SURFACE = 'The points there tell no surface; choose three and more that do not lie on a line.';

export async function newOnSurface(
  store: ReturnType<typeof useShot>,
  camera: ReturnType<typeof useCamera>,
  ids: readonly number[],
): Promise<void> {
  const { frame } = usePlayhead();
  const view = camera.views.get(frame);
  const file = camera.solved?.file;
  const shape = DEVICE_SHAPES.find((s) => s.id === camera.surfaceShape);
  const pin = view && file ? rectangleOn(file, view, ids, shape?.ratio) : null;
  camera.problem = pin ? '' : NO_SURFACE;
  if (!pin) return;
  const names = new Set(store.screens.map((s) => s.recipe.name));
  let n = 1;
  while (names.has(`Surface ${n}`)) n++;
  await store.addScreen({
    format: 'yarlop-screen',
    version: 1,
    name: `Surface ${n}`,
    device: shape?.device ?? 'other',
    referenceFrame: frame,
    pin: pin.map((p) => [...p]) as unknown as [[number, number], [number, number], [number, number], [number, number]],
    scene: true,
    scenePlane: { points: [...ids] as [number, number, number] },
  });
  camera.choose([], false);
}
