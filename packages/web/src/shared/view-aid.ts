/** View aids: how the picture is shown so that a tired eye sees more; nothing that is computed ever sees them. */
import { LUMINANCE } from '@yarlop/core/image/luminance';

export type Channel = 'all' | 'red' | 'green' | 'blue' | 'luma';

export interface Aid {
  /** factor */
  readonly brighten: number;
  /** grey levels stretched about the middle, factor */
  readonly contrast: number;
  readonly gamma: number;
  readonly channel: Channel;
  readonly edges: boolean;
}

export const PLAIN: Aid = { brighten: 1, contrast: 1, gamma: 1, channel: 'all', edges: false };

export function isPlain(a: Aid): boolean {
  return a.brighten === 1 && a.contrast === 1 && a.gamma === 1 && a.channel === 'all' && !a.edges;
}

/** In words, empty when the picture is shown as it is. */
export function describeAid(a: Aid): string {
  return [
    ...(a.brighten !== 1 ? [`${a.brighten.toFixed(1)}x`] : []),
    ...(a.contrast !== 1 ? [`contrast ${a.contrast.toFixed(1)}`] : []),
    ...(a.gamma !== 1 ? [`gamma ${a.gamma.toFixed(2)}`] : []),
    ...(a.channel !== 'all' ? [a.channel] : []),
    ...(a.edges ? ['edges'] : []),
  ].join(', ');
}

/** Rows of a colour matrix (R, G, B each from R, G, B); luma by Rec. ITU-R BT.709. */
export function channelMatrix(c: Channel): string {
  const one: Record<Channel, readonly number[]> = {
    all: [],
    red: [1, 0, 0],
    green: [0, 1, 0],
    blue: [0, 0, 1],
    luma: LUMINANCE,
  };
  const row = (i: number): readonly number[] => (c === 'all' ? [0, 1, 2].map((k) => Number(k === i)) : one[c]);
  return [0, 1, 2].map((i) => `${row(i).join(' ')} 0 0`).join(' ') + ' 0 0 0 1 0';
}

/** Greys around the picture, % of white's light, against which its brightness can be judged. */
export const SURROUNDS: readonly number[] = [5, 10, 18];
