/** What the values in a part of a picture are: darkest, mean and brightest, channel by channel. */
import type { Raster } from '../../image/image';

export type Triple = readonly [red: number, green: number, blue: number];

/** Code values of the picture, as they stand in it. */
export interface BoxFigures {
  readonly darkest: Triple;
  readonly mean: Triple;
  readonly brightest: Triple;
}

/** @returns null where the picture holds no pixel */
export function boxFigures({ width, height, channels, data }: Raster): BoxFigures | null {
  const count = width * height;
  if (count === 0) return null;
  const of = (channel: number): [darkest: number, mean: number, brightest: number] => {
    let darkest = Infinity;
    let brightest = -Infinity;
    let sum = 0;
    for (let i = 0, k = channel; i < count; i++, k += channels) {
      const v = data[k]!;
      sum += v;
      if (v < darkest) darkest = v;
      if (v > brightest) brightest = v;
    }
    return [darkest, sum / count, brightest];
  };
  const [red, green, blue] = [of(0), of(1), of(2)];
  const told = (k: 0 | 1 | 2): Triple => [red[k], green[k], blue[k]];
  return { darkest: told(0), mean: told(1), brightest: told(2) };
}
