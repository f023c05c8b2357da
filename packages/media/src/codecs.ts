/** How pictures are coded in each type of file that is written, as arguments of ffmpeg. */
import type { ColourTags } from './probe';

/** What the coding of pictures depends on. */
export interface Coded {
  /** bits a channel of the pictures that will be written: 8, 16, or 32 for floats */
  readonly depth: 8 | 16 | 32;
  readonly alpha: boolean;
  /** constant rate factor of H.264, smaller is finer; 14 when left out */
  readonly rateFactor?: number;
  /** OpenEXR with 32 bits a channel instead of 16 */
  readonly fullFloat?: boolean;
  /** HEVC instead of H.264 in an .mp4 */
  readonly hevc?: boolean;
  /** of the plate, written as the file's tags; Rec.709 where they are not known */
  readonly colour?: ColourTags;
}

/** Words that files take; a curve or primaries set by hand that no file has a word for go out as Rec.709. */
const FILE_PRIMARIES = ['bt709', 'bt470bg', 'smpte170m', 'smpte240m', 'bt2020', 'smpte431', 'smpte432'];
const FILE_TRANSFERS = ['bt709', 'smpte170m', 'iec61966-2-1', 'bt2020-10', 'bt2020-12', 'smpte2084', 'arib-std-b67'];
/** Primaries, curve and matrix as tags, and the filter that makes pictures of that matrix. */
function colourOf(c: ColourTags | undefined): { readonly tags: string[]; readonly toYuv: string } {
  const wide = c?.primaries === 'bt2020';
  const matrix = wide ? 'bt2020nc' : 'bt709';
  const primaries = FILE_PRIMARIES.includes(c?.primaries ?? '') ? c!.primaries! : 'bt709';
  const transfer = FILE_TRANSFERS.includes(c?.transfer ?? '') ? c!.transfer! : 'bt709';
  // Some encoders take the tags of the frames and not those that they are told.
  return {
    tags: ['-color_primaries', primaries, '-color_trc', transfer, '-colorspace', matrix],
    toYuv: `scale=out_color_matrix=${wide ? 'bt2020' : 'bt709'}:out_range=tv:flags=bicubic+accurate_rnd+full_chroma_int,setparams=color_primaries=${primaries}:color_trc=${transfer}:colorspace=${matrix}`,
  };
}

type Samples = Pick<Coded, 'depth' | 'alpha'>;

/** ffmpeg's name of planar RGB, as FFV1 takes it. */
function planarFormat({ depth, alpha }: Samples): string {
  if (depth > 8) return alpha ? 'gbrap16le' : 'gbrp16le';
  return alpha ? 'bgra' : 'bgr0';
}

/** ffmpeg's name of interleaved RGB; 16-bit samples in the byte order that the file type holds them in. */
export function packedFormat({ depth, alpha }: Samples, order: 'le' | 'be'): string {
  if (depth === 16) return `${alpha ? 'rgba64' : 'rgb48'}${order}`;
  return alpha ? 'rgba' : 'rgb24';
}

type Coding = (o: Coded) => string[];

/** Quality of a clip for looking at, where none is told; the encoders' own scale, less is better. By trial. */
const RATE_FACTOR = 14;

/** A filter and the tags of colour, around what is the codec's own. */
function tagged(o: Coded, own: readonly string[]): string[] {
  const { tags, toYuv } = colourOf(o.colour);
  return ['-vf', toYuv, ...own, ...tags];
}

const hevc: Coding = (o) => [
  ...tagged(o, ['-c:v', 'libx265', '-preset', 'veryfast', '-crf', String(o.rateFactor ?? RATE_FACTOR)]),
  ...['-tag:v', 'hvc1', '-x265-params', 'log-level=error', '-pix_fmt', o.depth > 8 ? 'yuv420p10le' : 'yuv420p'],
  ...['-movflags', '+faststart'],
];

/**
 * Measured at 1080p on two cores: two thirds of the time of "veryfast"; with this factor as near to the picture, in files
 * half as large again to twice as large.
 */
const avc: Coding = (o) => [
  ...tagged(o, ['-c:v', 'libx264', '-preset', 'superfast', '-crf', String(o.rateFactor ?? RATE_FACTOR)]),
  ...['-pix_fmt', 'yuv420p', '-movflags', '+faststart'],
];

const prores: Coding = (o) => [
  ...tagged(o, ['-c:v', 'prores_ks', '-profile:v', o.alpha ? '4444' : '3']),
  ...['-pix_fmt', o.alpha ? 'yuva444p10le' : 'yuv422p10le', '-movflags', '+write_colr'],
];

const vp9: Coding = (o) =>
  tagged(o, [
    ...['-c:v', 'libvpx-vp9', '-crf', '20', '-b:v', '0', '-row-mt', '1'],
    ...['-pix_fmt', o.alpha ? 'yuva420p' : 'yuv420p'],
  ]);

const ffv1: Coding = (o) => ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-pix_fmt', planarFormat(o)];
const png: Coding = (o) => ['-c:v', 'png', '-pix_fmt', packedFormat(o, 'be'), '-f', 'image2'];
const tiff: Coding = (o) => [
  ...['-c:v', 'tiff', '-compression_algo', 'deflate', '-pix_fmt', packedFormat(o, 'le'), '-f', 'image2'],
];

/** 32 bits hardly become smaller: run lengths are three times as fast as deflate there. */
const exr: Coding = (o) => [
  ...['-c:v', 'exr', '-compression', o.fullFloat ? 'rle' : 'zip16', '-format', o.fullFloat ? 'float' : 'half'],
  ...['-pix_fmt', o.alpha ? 'gbrapf32le' : 'gbrpf32le', '-f', 'image2'],
];

const CODINGS: Readonly<Record<string, Coding>> = {
  '.mp4': (o) => (o.hevc ? hevc(o) : avc(o)),
  '.mov': prores,
  '.webm': vp9,
  '.mkv': ffv1,
  '.png': png,
  '.tif': tiff,
  '.tiff': tiff,
  '.exr': exr,
};

/** Codec arguments by file type, with its dot and in small letters; null where the type is not one that is written. */
export function codingOf(type: string, o: Coded): string[] | null {
  return CODINGS[type]?.(o) ?? null;
}

/** How sound is coded beside the pictures, by file type. */
export const SOUND: Readonly<Record<string, readonly string[]>> = {
  '.mp4': ['-c:a', 'aac', '-b:a', '256k'],
  '.mov': ['-c:a', 'pcm_s24le'],
  '.webm': ['-c:a', 'libopus', '-b:a', '160k'],
  '.mkv': ['-c:a', 'flac'],
};
