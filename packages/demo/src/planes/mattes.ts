/** How far what passes in front covers each pixel: the truth for mattes. */
import { clamp } from '@yarlop/core/clamp';
import { CURVES } from '@yarlop/core/dress/colour/transfer';
import type { DemoShot } from './shots';
import type { Set, Surface } from './stage';
import { renderFrame } from './stage';
import type { Texture } from './texture';

/** Light of everything that is not in front, where the film curve is still that of sRGB. */
const WHITE = 0.7;
/** Samples a pixel at the least. */
const SAMPLES = 24;

const PLAIN: Texture = {
  levels: [
    { width: 2, height: 2, across: 2, down: 2, data: new Float32Array(16).map((_, i) => (i % 4 === 3 ? 1 : WHITE)) },
  ],
};

/** The set with everything white; what stands before the Screen is black, or left out. */
function onWhite({ set, screens }: DemoShot, fronts: boolean): Set {
  const self = set.surfaces.findIndex((s) => s.place === screens[0]!.place && !s.adds);
  const surfaces = set.surfaces.flatMap((s, i): Surface[] => {
    if (s.adds) return [];
    if (i > self) return fronts ? [{ ...s, level: () => 0 }] : [];
    return [{ texture: () => PLAIN, place: s.place }];
  });
  return { ...set, surfaces, grain: 0, exposure: () => 1 };
}

/** Cover of the first Screen's plane and of what lies around it, in light: 255 for wholly covered. `width*height`. */
export function mattesOf(shot: DemoShot, frame: number): Uint8Array {
  const time = shot.set.shownOn?.(frame) ?? frame;
  const light = (fronts: boolean): Float32Array =>
    Float32Array.from(renderFrame(onWhite(shot, fronts), time, shot.screens[0]!.place, SAMPLES), (v) =>
      CURVES.srgb.decode(v / 255),
    );
  const covered = light(true);
  const clear = light(false);
  return Uint8Array.from({ length: covered.length / 3 }, (_, i) =>
    clear[3 * i]! > 0 ? Math.round(255 * clamp(1 - covered[3 * i]! / clear[3 * i]!, 0, 1)) : 0,
  );
}
