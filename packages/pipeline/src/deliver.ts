/** The job of delivering track data: texts, maps, mattes and packages, each written whole or not at all. */
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, extname, join } from 'node:path';
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { Conventions } from '@yarlop/core/formats/conventions';
import { describe, ownConventions } from '@yarlop/core/formats/conventions';
import { writeCss, writeHtml } from '@yarlop/core/formats/css';
import type { ContentSize, PageParts } from '@yarlop/core/formats/css';
import { writeCsv } from '@yarlop/core/formats/csv';
import type { Backdrop } from '@yarlop/core/formats/gltf';
import { writeGltf } from '@yarlop/core/formats/gltf';
import { writeHomographyCsv, writeHomographyJson, writeOpenCvYaml } from '@yarlop/core/formats/homographies';
import { writeOtio } from '@yarlop/core/formats/otio';
import type { ReportParts } from '@yarlop/core/formats/report';
import { writeReport } from '@yarlop/core/formats/report';
import type { SceneOptions } from '@yarlop/core/formats/scene';
import { sceneOf } from '@yarlop/core/formats/scene';
import type { OutlinesByScreen } from '@yarlop/core/formats/shapes';
import { writeShapesJson, writeShapesSvg } from '@yarlop/core/formats/shapes';
import { referencePin, toTrackFile, writeTrackJson } from '@yarlop/core/formats/track-json';
import { writeTransformCsv, writeTransformJson } from '@yarlop/core/formats/transforms';
import { writeUsda } from '@yarlop/core/formats/usda';
import { distance } from '@yarlop/core/geometry/point';
import type { Point } from '@yarlop/core/geometry/point';
import type { ScreenTrack, Track } from '@yarlop/core/track';
import { ffmpegWrites } from '@yarlop/media/ffmpeg';
import type { Source } from '@yarlop/media/source';
import { InputError } from './pipeline-error';

/** Formats that are one file of text. */
export const TEXT_FORMATS = [
  'csv',
  'tsv',
  'json',
  'homography-csv',
  'homography-json',
  'opencv-yaml',
  'shapes-svg',
  'shapes-json',
  'transform-csv',
  'transform-json',
  'gltf',
  'usda',
  'html',
  'css',
  'otio',
  'report',
] as const;
export type TextFormat = (typeof TEXT_FORMATS)[number];
/** Formats that are a picture a frame. */
export const MAP_FORMATS = ['stmap', 'stmap-inverse', 'lens-undistort', 'lens-distort', 'matte'] as const;
export type MapFormat = (typeof MAP_FORMATS)[number];
/** The plate itself, bent by the plane. */
export const PLATE_FORMATS = ['stabilised', 'flat'] as const;
export const FORMATS = [...TEXT_FORMATS, ...MAP_FORMATS, ...PLATE_FORMATS, 'package'] as const;
export type Format = (typeof FORMATS)[number];

export const ENDINGS: Readonly<Record<TextFormat, string>> = {
  csv: 'csv',
  tsv: 'tsv',
  json: 'json',
  'homography-csv': 'csv',
  'homography-json': 'json',
  'opencv-yaml': 'yml',
  'shapes-svg': 'svg',
  'shapes-json': 'json',
  'transform-csv': 'csv',
  'transform-json': 'json',
  gltf: 'gltf',
  usda: 'usda',
  html: 'html',
  css: 'css',
  otio: 'otio',
  report: 'html',
};

export interface TextOptions {
  readonly conventions?: Conventions;
  readonly invert?: boolean;
  /** recipes by the Screen's name, for outlines and device kinds */
  readonly screens?: ReadonlyMap<string, ScreenFile>;
  /** px of the content, by Screen; as large as the pin is where left out */
  readonly content?: ReadonlyMap<string, ContentSize>;
  readonly scene?: SceneOptions;
  /** pictures of the plate behind a glTF scene */
  readonly backdrop?: readonly Backdrop[];
  readonly page?: PageParts;
  readonly report?: ReportParts;
  /** points of the plane that transforms are fitted to, px of the reference frame */
  readonly points?: readonly Point[];
  /** frame of the plate's own timecode at which it begins */
  readonly startTime?: number;
}

/** As large as the pin is on the reference frame, whole px. */
function pinSize(s: ScreenTrack): ContentSize {
  const q = referencePin(s);
  return {
    width: Math.max(1, Math.round((distance(q[0], q[1]) + distance(q[3], q[2])) / 2)),
    height: Math.max(1, Math.round((distance(q[0], q[3]) + distance(q[1], q[2])) / 2)),
  };
}

function outlinesOf(screens: ReadonlyMap<string, ScreenFile> | undefined): OutlinesByScreen {
  return new Map(
    [...(screens ?? [])].map(([name, s]) => [
      name,
      [
        ...(s.patches ?? []).map((p, i) => ({ name: `${p.kind} patch ${i + 1}`, outline: p })),
        ...(s.dress?.holdouts ?? []).flatMap((h, i) =>
          h.kind === 'outline' && !h.plane ? [{ name: `holdout ${i + 1}`, outline: h }] : [],
        ),
      ],
    ]),
  );
}

/** @throws CoreError for a track that the format cannot carry */
export function writeText(track: Track, format: TextFormat, o: TextOptions = {}): string {
  const { plate } = track;
  const c = o.conventions ?? ownConventions(plate.width, plate.height);
  const shared = { conventions: c, ...(o.invert ? { invert: true } : {}) };
  const contentOf = (s: ScreenTrack): ContentSize => o.content?.get(s.name) ?? pinSize(s);
  const scene = () =>
    sceneOf(track, new Map([...(o.screens ?? [])].map(([name, s]) => [name, s.device ?? 'other'])), o.scene);
  switch (format) {
    case 'csv':
      return writeCsv(track, c);
    case 'tsv':
      return writeCsv(track, c, '\t');
    case 'json':
      return writeTrackJson(toTrackFile(track, c, describe));
    case 'homography-csv':
      return writeHomographyCsv(track, shared);
    case 'homography-json':
      return writeHomographyJson(track, shared);
    case 'opencv-yaml':
      return writeOpenCvYaml(track, shared);
    case 'shapes-svg':
      return writeShapesSvg(track, outlinesOf(o.screens), c.size);
    case 'shapes-json':
      return writeShapesJson(track, outlinesOf(o.screens), c);
    case 'transform-csv':
      return writeTransformCsv(track, { ...shared, ...(o.points ? { points: o.points } : {}) });
    case 'transform-json':
      return writeTransformJson(track, { ...shared, ...(o.points ? { points: o.points } : {}) });
    case 'gltf':
      return writeGltf(plate, scene(), o.backdrop);
    case 'usda':
      return writeUsda(plate, scene());
    case 'html':
      return writeHtml(track, contentOf, o.page ?? { plate: null, fills: new Map() });
    case 'css':
      return writeCss(track, contentOf, c.size);
    case 'otio':
      return writeOtio(
        plate,
        [
          {
            name: 'plate',
            path: plate.name,
            available: [o.startTime ?? plate.firstFrame, plate.frameCount],
            used: [o.startTime ?? plate.firstFrame, plate.frameCount],
          },
        ],
        o.startTime ?? plate.firstFrame,
      );
    case 'report':
      return writeReport(track, o.report ?? {});
  }
}

const PICTURES: Readonly<Record<string, string>> = {
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.webp': 'image/webp',
  '.svg': 'image/svg+xml',
};
const CLIPS: Readonly<Record<string, string>> = { '.mp4': 'video/mp4', '.webm': 'video/webm' };

/**
 * A picture or clip as a data address, so that a page needs nothing else. @throws InputError for types that browsers do
 * not show
 */
export async function dataAddress(path: string): Promise<{ readonly url: string; readonly kind: 'video' | 'picture' }> {
  const type = extname(path).toLowerCase();
  const picture = PICTURES[type];
  const clip = CLIPS[type];
  if (!picture && !clip)
    throw new InputError(
      `${basename(path)} is not of a type that every browser shows; use ${[...Object.keys(PICTURES), ...Object.keys(CLIPS)].join(', ')}.`,
    );
  const bytes = await readFile(path).catch((e: NodeJS.ErrnoException) => {
    throw new InputError(
      e.code === 'ENOENT' ? `${path} does not exist; check the path.` : `${path} cannot be read (${e.code}).`,
    );
  });
  return { url: `data:${picture ?? clip};base64,${bytes.toString('base64')}`, kind: picture ? 'picture' : 'video' };
}

/**
 * The plate as a clip for a page: every frame a key frame, so that a page can show each one exactly. @param width px at
 * the most
 */
export async function pagePlate(
  source: Source,
  width = 1920,
): Promise<{ readonly url: string; readonly kind: 'video' }> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-page-'));
  const path = join(folder, 'plate.mp4');
  try {
    await ffmpegWrites(source, [
      '-vf',
      `scale='min(${width},trunc(iw/2)*2)':-2`,
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-crf',
      '18',
      '-g',
      '1',
      '-pix_fmt',
      'yuv420p',
      '-an',
      '-movflags',
      '+faststart',
      '-map_metadata',
      '-1',
      '-fflags',
      '+bitexact',
      path,
    ]);
    return { url: `data:video/mp4;base64,${(await readFile(path)).toString('base64')}`, kind: 'video' };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Small pictures of frames as data addresses. */
export async function thumbnails(
  source: Source,
  frames: readonly number[],
  width = 352,
): Promise<{ readonly frame: number; readonly url: string }[]> {
  const folder = await mkdtemp(join(tmpdir(), 'yarlop-thumbs-'));
  const sorted = [...new Set(frames)].sort((a, b) => a - b);
  try {
    await ffmpegWrites(source, [
      '-vf',
      `select='${sorted.map((n) => `eq(n,${n})`).join('+')}',scale=w='min(${width},iw)':h=-2`,
      '-vsync',
      'passthrough',
      '-q:v',
      '4',
      join(folder, '%04d.jpg'),
    ]);
    const names = (await readdir(folder)).sort();
    return await Promise.all(
      names.map(async (name, i) => ({
        frame: sorted[i]!,
        url: `data:image/jpeg;base64,${(await readFile(join(folder, name))).toString('base64')}`,
      })),
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
