/**
 * One channel of a picture: `Float32Array` of `width*height`, row-major, values 0 to 255 whatever the source's depth.
 */
export interface Luma {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** A luma picture as read from the plate: 8 bit as 0 to 255, deeper ones as 0 to 65535, full range. */
export interface RawLuma {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array | Uint16Array | Float32Array;
}

/**
 * A picture as files and screens hold it: RGBA or RGB interleaved, row-major; full range of its integer type, or floats
 * whose range has no end, 1 being white.
 */
export interface Raster {
  readonly width: number;
  readonly height: number;
  /** 3 (RGB) or 4 (RGB and straight alpha) */
  readonly channels: 3 | 4;
  readonly data: Uint8Array | Uint8ClampedArray | Uint16Array | Float32Array;
}

/** An empty picture whose values are of the same kind. */
export function emptyLike({ data }: Raster, width: number, height: number, channels: Raster['channels']): Raster {
  const n = width * height * channels;
  if (data instanceof Float32Array) return { width, height, channels, data: new Float32Array(n) };
  if (data instanceof Uint16Array) return { width, height, channels, data: new Uint16Array(n) };
  return { width, height, channels, data: new Uint8Array(n) };
}

/** The code value of white. */
export function maxOf(r: Raster): 1 | 255 | 65535 {
  if (r.data instanceof Float32Array) return 1;
  if (r.data instanceof Uint16Array) return 65535;
  return 255;
}
