/** The picture that screens are looked for in: small, in colour, and how it changes from place to place. */
import type { Luma, Raster } from '../image/image';
import { maxOf } from '../image/image';

/** px; wider pictures are made smaller by whole numbers until they are at most as wide. By trial. */
const MOST_WIDTH = 1280;
/** Code values are told as 0 to 255, whatever the depth. */
const WHITE = 255;

/** Three channels in code values 0 to 255, each `width * height`, row-major. */
export interface SmallPicture {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly [Float32Array, Float32Array, Float32Array];
  /** px of the plate in one of its px */
  readonly scale: number;
}

/** The mean over squares of `scale` px. @param r RGB or RGBA of any depth; alpha is left out */
export function smallPicture(r: Raster, mostWidth = MOST_WIDTH): SmallPicture {
  const scale = Math.max(1, Math.ceil(r.width / mostWidth));
  const width = Math.floor(r.width / scale);
  const height = Math.floor(r.height / scale);
  const each = WHITE / (maxOf(r) * scale * scale);
  const channels = [0, 1, 2].map((c) => {
    const out = new Float32Array(width * height);
    for (let y = 0; y < height * scale; y++) {
      const row = Math.floor(y / scale) * width;
      for (let x = 0; x < width * scale; x++)
        out[row + Math.floor(x / scale)]! += each * r.data[(y * r.width + x) * r.channels + c]!;
    }
    return out;
  });
  return { width, height, scale, channels: channels as unknown as SmallPicture['channels'] };
}

/** The mean of all three channels. */
export function greyOf({ width, height, channels: [r, g, b] }: SmallPicture): Luma {
  const data = new Float32Array(width * height);
  for (let i = 0; i < data.length; i++) data[i] = (r[i]! + g[i]! + b[i]!) / 3;
  return { width, height, data };
}

/** Binomial weights (1 2 1) / 4 along rows, then along columns; the border keeps its values. */
function softened(data: Float32Array, width: number, height: number): Float32Array {
  const rows = data.slice();
  for (let y = 0; y < height; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      rows[i] = (data[i - 1]! + 2 * data[i]! + data[i + 1]!) / 4;
    }
  const out = rows.slice();
  for (let y = 1; y < height - 1; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      out[i] = (rows[i - width]! + 2 * rows[i]! + rows[i + width]!) / 4;
    }
  return out;
}

/** How the picture changes at each px: code values a px to the right and downwards, of the channel that changes most. */
export interface Slopes {
  readonly width: number;
  readonly height: number;
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly size: Float32Array;
}

/** Central differences of the softened channels. Source of taking the strongest channel: common practice, no source. */
export function slopesOf({ width, height, channels }: SmallPicture): Slopes {
  const [x, y, size] = [0, 1, 2].map(() => new Float32Array(width * height)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  for (const channel of channels) {
    const soft = softened(channel, width, height);
    for (let v = 1; v < height - 1; v++)
      for (let u = 1; u < width - 1; u++) {
        const i = v * width + u;
        const dx = (soft[i + 1]! - soft[i - 1]!) / 2;
        const dy = (soft[i + width]! - soft[i - width]!) / 2;
        const all = Math.hypot(dx, dy);
        if (all <= size[i]!) continue;
        [x[i], y[i], size[i]] = [dx, dy, all];
      }
  }
  return { width, height, x, y, size };
}
