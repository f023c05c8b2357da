/** A drawn surface: premultiplied scene-linear RGBA with halved copies, sampled bilinearly at the size it is seen. */
import sharp from 'sharp';

export interface TextureLevel {
  readonly width: number;
  readonly height: number;
  /** of the surface in texels of this level; an odd one is halved exactly, and its last texel then reaches beyond it */
  readonly across: number;
  readonly down: number;
  /** RGBA, premultiplied, linear, `width*height*4` */
  readonly data: Float32Array;
}

export interface Texture {
  readonly levels: readonly TextureLevel[];
}

/** Decoding of the sRGB curve, IEC 61966-2-1. */
const LINEAR = Float32Array.from({ length: 256 }, (_, i) =>
  i <= 10 ? i / 255 / 12.92 : ((i / 255 + 0.055) / 1.055) ** 2.4,
);

function halved(t: TextureLevel): TextureLevel {
  const width = (t.width + 1) >> 1;
  const height = (t.height + 1) >> 1;
  const data = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = (2 * y * t.width + 2 * x) * 4;
      const b = a + (2 * x + 1 < t.width ? 4 : 0);
      const d = 2 * y + 1 < t.height ? t.width * 4 : 0;
      const o = (y * width + x) * 4;
      for (let k = 0; k < 4; k++)
        data[o + k] = (t.data[a + k]! + t.data[b + k]! + t.data[a + d + k]! + t.data[b + d + k]!) / 4;
    }
  return { width, height, across: t.across / 2, down: t.down / 2, data };
}

/** @param blur px of the picture, Gaussian: for what stands out of focus */
export async function textureFromSvg(svg: string, blur = 0): Promise<Texture> {
  const picture = sharp(Buffer.from(svg), { limitInputPixels: false }).ensureAlpha();
  const { data, info } = await (blur > 0 ? picture.blur(blur) : picture).raw().toBuffer({ resolveWithObject: true });
  const out = new Float32Array(data.length);
  for (let i = 0; i < data.length; i += 4) {
    const a = data[i + 3]! / 255;
    for (let k = 0; k < 3; k++) out[i + k] = LINEAR[data[i + k]!]! * a;
    out[i + 3] = a;
  }
  const levels: TextureLevel[] = [
    { width: info.width, height: info.height, across: info.width, down: info.height, data: out },
  ];
  while (levels.at(-1)!.width > 8 && levels.at(-1)!.height > 8) levels.push(halved(levels.at(-1)!));
  return { levels };
}
