/** The plate's light on the edge of what is laid over it. */
import type { Region } from '../base/region';
import { gaussianBlur } from '../shape/softness';

/**
 * The plate's light creeps over the element's edge: what is near the edge mixes with what is blurred from beyond it.
 */
export function wrapLight(
  element: Float32Array,
  under: Float32Array,
  region: Region,
  amount: number,
  reach: number,
): void {
  const n = region.width * region.height;
  const around = new Float32Array(n * 4);
  for (let i = 0; i < n; i++) {
    const free = 1 - Math.min(1, element[i * 4 + 3]!);
    for (let c = 0; c < 3; c++) around[i * 4 + c] = free * under[i * 3 + c]!;
    around[i * 4 + 3] = free;
  }
  gaussianBlur(around, region.width, region.height, 4, reach / 2);
  for (let i = 0; i < n; i++)
    for (let c = 0; c < 3; c++) element[i * 4 + c]! += amount * element[i * 4 + 3]! * around[i * 4 + c]!;
}
