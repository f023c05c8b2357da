import { clamp } from '@yarlop/core/clamp';
import sharp from 'sharp';
import type { Vec } from './vector';

/** Scene-linear RGB picture, `width*height*3`. */
export interface Picture {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

export async function pictureFromSvg(svg: string): Promise<Picture> {
  const { data, info } = await sharp(Buffer.from(svg)).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data: Float32Array.from(data, (v) => (v / 255) ** 2.2) };
}

/** Bilinear, u and v in 0..1. */
export function sample(p: Picture, u: number, v: number): Vec {
  const x = clamp(u * p.width - 0.5, 0, p.width - 1.001);
  const y = clamp(v * p.height - 0.5, 0, p.height - 1.001);
  const ix = x | 0;
  const iy = y | 0;
  const fx = x - ix;
  const fy = y - iy;
  const k = (iy * p.width + ix) * 3;
  const d = p.width * 3;
  const at = (c: number): number => {
    const a = p.data[k + c]! + fx * (p.data[k + 3 + c]! - p.data[k + c]!);
    const b = p.data[k + d + c]! + fx * (p.data[k + d + 3 + c]! - p.data[k + d + c]!);
    return a + fy * (b - a);
  };
  return [at(0), at(1), at(2)];
}
