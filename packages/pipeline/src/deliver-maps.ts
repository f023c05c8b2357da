/** ST maps and mattes: a picture a frame, of each Screen. */
import { clamp } from '@yarlop/core/clamp';
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { MapArea } from '@yarlop/core/formats/st-map';
import { inverseStMap, lensMap, stMap } from '@yarlop/core/formats/st-map';
import { boundsOf } from '@yarlop/core/geometry/polygon';
import { scaling } from '@yarlop/core/geometry/matrix3';
import type { Quad } from '@yarlop/core/geometry/quad';
import { mapQuad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import type { PlateInfo, ScreenTrack, Track } from '@yarlop/core/track';
import { maxOf } from '@yarlop/core/image/image';
import { holdsFloats } from '@yarlop/media/encode';
import { InputError } from './pipeline-error';
import { writePictures } from './write-pictures';

export interface MapOptions {
  readonly inverse?: boolean;
  /** of the plate, or of the content for the inverse: px of the map's full picture */
  readonly size: readonly [number, number];
  /** px that the map goes on beyond the picture, on every side */
  readonly overscan?: number;
  /** px about the Screen to which the map is cut: one rectangle for the whole shot */
  readonly crop?: number;
  readonly fullFloat?: boolean;
}

/** A name as part of a file's, such as every file system takes. @param otherwise where nothing of it is left */
export function fileSafe(name: string, otherwise = 'screen'): string {
  return (
    name
      .normalize('NFKD')
      .replace(/[^\w.-]+/g, '-')
      .replace(/^[-.]+|[-.]+$/g, '') || otherwise
  );
}

/** The pattern for one of several Screens: its name before the number. */
export function patternFor(pattern: string, screen: string, several: boolean): string {
  return several ? pattern.replace(/\.?(%0?\d*d)/, `.${fileSafe(screen)}.$1`) : pattern;
}

const scaledTo = (q: Quad, kx: number, ky: number): Quad => mapQuad(scaling(kx, ky), q);

/** The rectangle of the map, px of its full picture. */
export function mapArea(track: Track, s: ScreenTrack, { size: [w, h], overscan = 0, crop }: MapOptions): MapArea {
  const whole = { x: -overscan, y: -overscan, width: w + 2 * overscan, height: h + 2 * overscan };
  if (crop === undefined) return whole;
  const b = boundsOf(s.frames.flatMap((f) => scaledTo(f.corners, w / track.plate.width, h / track.plate.height)));
  const x = Math.max(whole.x, Math.floor(b.x0 - crop));
  const y = Math.max(whole.y, Math.floor(b.y0 - crop));
  const right = Math.min(whole.x + whole.width, Math.ceil(b.x1 + crop));
  const low = Math.min(whole.y + whole.height, Math.ceil(b.y1 + crop));
  if (right - x < 2 || low - y < 2)
    throw new InputError(
      `Screen "${s.name}" lies outside the picture on every frame; nothing would be left of its map.`,
    );
  // Even sides, which every codec takes.
  return { x, y, width: 2 * Math.ceil((right - x) / 2), height: 2 * Math.ceil((low - y) / 2) };
}

/** @throws InputError for a place that whole numbers cannot hold, with the mend */
function toWhole(map: Float32Array, width: number, height: number, frame: number, inverse: boolean): Raster {
  const data = new Uint16Array(map.length);
  for (let k = 0; k < map.length; k += 4) {
    for (let c = 0; c < 2; c++) {
      const v = map[k + c]!;
      // The inverse of a Screen that leaves the picture has places that only floats hold; outside its pin the forward
      // map needs none.
      if (inverse && (v < 0 || v > 1))
        throw new InputError(
          `The map of frame ${frame} holds the value ${v.toFixed(3)}, outside 0 to 1, which PNG and TIFF cannot carry; write .exr, or a range of frames in which the Screen lies inside the picture.`,
        );
      data[k + c] = Math.round(65535 * clamp(v, 0, 1));
    }
    data[k + 3] = Math.round(65535 * map[k + 3]!);
  }
  return { width, height, channels: 4, data };
}

/** Yields the number of each frame written; returns the files. @throws InputError, MediaError */
export async function* writeMaps(
  track: Track,
  s: ScreenTrack,
  pattern: string,
  o: MapOptions,
): AsyncGenerator<number, string[]> {
  const { plate } = track;
  const [w, h] = o.size;
  const inverse = o.inverse ?? false;
  const area = inverse ? { x: 0, y: 0, width: w, height: h } : mapArea(track, s, o);
  const kx = w / plate.width;
  const ky = h / plate.height;
  const float = holdsFloats(pattern);
  const lens = s.lens ? { radial: s.lens, width: inverse ? plate.width : w, height: inverse ? plate.height : h } : null;
  if (s.frames.length === 0) throw new InputError(`Screen "${s.name}" has no frames in the track.`);
  return yield* writePictures(
    pattern,
    {
      width: area.width,
      height: area.height,
      frameRate: plate.frameRate,
      firstNumber: plate.firstFrame + s.frames[0]!.frame,
      depth: float ? 32 : 16,
      alpha: true,
      fullFloat: o.fullFloat ?? true,
    },
    maps(),
  );
  async function* maps(): AsyncGenerator<readonly [number, Raster]> {
    for (const f of s.frames) {
      const map = inverse
        ? inverseStMap(f.corners, { width: w, height: h }, plate, lens)
        : stMap(scaledTo(f.corners, kx, ky), area, lens);
      yield [
        f.frame,
        float
          ? { width: area.width, height: area.height, channels: 4, data: map }
          : toWhole(map, area.width, area.height, f.frame, inverse),
      ];
    }
  }
}

/** A lens, and the frame that its map is numbered by. */
export interface MappedLens {
  /** of half the picture's width */
  readonly radial: number;
  readonly frame: number;
}

/** One map of a lens, for every frame of a plate. @throws InputError for a name that does not fit */
export async function* writeLens(
  plate: PlateInfo,
  { radial, frame }: MappedLens,
  pattern: string,
  way: 'undistort' | 'distort',
  o: Pick<MapOptions, 'size' | 'overscan' | 'fullFloat'>,
): AsyncGenerator<number, string[]> {
  const [width, height] = o.size;
  const float = holdsFloats(pattern);
  const { overscan = 0 } = o;
  const map = lensMap({ radial, width, height }, way, overscan);
  const w = width + 2 * overscan;
  const h = height + 2 * overscan;
  // Whole numbers hold what lies inside; where alpha is 0 they hold the nearest border.
  return yield* writePictures(
    pattern,
    {
      width: w,
      height: h,
      frameRate: plate.frameRate,
      firstNumber: plate.firstFrame + frame,
      depth: float ? 32 : 16,
      alpha: true,
      fullFloat: o.fullFloat ?? true,
    },
    (async function* () {
      yield [
        frame,
        float ? { width: w, height: h, channels: 4 as const, data: map } : toWhole(map, w, h, frame, false),
      ] as const;
    })(),
  );
}

/** The map of a Screen's lens. @throws InputError where none was solved or typed */
export async function* writeLensMap(
  { plate }: Track,
  s: ScreenTrack,
  pattern: string,
  way: 'undistort' | 'distort',
  o: Pick<MapOptions, 'size' | 'overscan' | 'fullFloat'>,
): AsyncGenerator<number, string[]> {
  if (!s.lens)
    throw new InputError(
      `No lens was solved or typed for Screen "${s.name}": its corners lie where straight lines are straight, and a map would change nothing.`,
    );
  const frame = s.frames[0]?.frame ?? s.referenceFrame;
  return yield* writeLens(plate, { radial: s.lens, frame }, pattern, way, o);
}

/** Bits a sample of a coverage written as files of this name; 32 for floats. */
function coverageDepth(pattern: string): 8 | 16 | 32 {
  if (holdsFloats(pattern)) return 32;
  return /\.(mp4|webm)$/i.test(pattern) ? 8 : 16;
}

function emptyCoverage(pixels: number, depth: 8 | 16 | 32): Raster['data'] {
  if (depth === 32) return new Float32Array(pixels * 3);
  return depth === 16 ? new Uint16Array(pixels * 3) : new Uint8Array(pixels * 3);
}

/** The pin's coverage alone, for mattes without a plate. */
export async function* writeCoverage(
  track: Track,
  s: ScreenTrack,
  pattern: string,
  size: readonly [number, number],
): AsyncGenerator<number, string[]> {
  const { plate } = track;
  const [w, h] = size;
  const float = holdsFloats(pattern);
  const lens = s.lens ? { radial: s.lens, width: w, height: h } : null;
  if (s.frames.length === 0) throw new InputError(`Screen "${s.name}" has no frames in the track.`);
  return yield* writePictures(
    pattern,
    {
      width: w,
      height: h,
      frameRate: plate.frameRate,
      firstNumber: plate.firstFrame + s.frames[0]!.frame,
      depth: coverageDepth(pattern),
      alpha: false,
    },
    covers(),
  );
  async function* covers(): AsyncGenerator<readonly [number, Raster]> {
    for (const f of s.frames) {
      const map = stMap(
        scaledTo(f.corners, w / plate.width, h / plate.height),
        { x: 0, y: 0, width: w, height: h },
        lens,
      );
      const n = w * h;
      const data = emptyCoverage(n, coverageDepth(pattern));
      const white = maxOf({ width: w, height: h, channels: 3, data });
      for (let i = 0; i < n; i++)
        data.fill(float ? map[i * 4 + 3]! : Math.round(white * map[i * 4 + 3]!), i * 3, i * 3 + 3);
      yield [f.frame, { width: w, height: h, channels: 3, data }];
    }
  }
}

/** A Screen whose fill is plain white, so that its matte is how much of any fill would show. */
export function whiteFill(screen: ScreenFile): ScreenFile {
  return { ...screen, fill: { made: { ground: [1, 1, 1] } } };
}
