/** What a Screen's pictures are read from: the plate's luma, or a mix of its channels that is read in for it. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Mix } from '@yarlop/core/follow/picture/reading';
import { clearestMix, mixOf } from '@yarlop/core/follow/picture/reading';
import type { Raster } from '@yarlop/core/image/image';
import { areaOf } from './screen-file';

/**
 * Null for luma. @param reference gives the reference frame in colour; it is asked for only where the mix is to be
 * measured
 */
export async function mixFor(screen: ScreenFile, reference: () => Promise<Raster | null>): Promise<Mix | null> {
  const { reading = 'auto' } = screen;
  if (reading !== 'auto') return mixOf(reading);
  const picture = await reference();
  const area = areaOf(screen);
  return picture && clearestMix(picture, area.quad, [...(screen.patches ?? []), ...area.patches]);
}

/** A mix in words, for the person. */
export function describeMix(mix: Mix): string {
  const parts = (['red', 'green', 'blue'] as const).flatMap((name, i) =>
    mix[i]! > 0 ? [`${Math.round(100 * mix[i]!)} % ${name}`] : [],
  );
  return `Read from ${parts.join(', ')}, where the picture stands out better than in luma.`;
}
