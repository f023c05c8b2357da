/** Track data as texts: one writer a format of the catalogue. */
import type { ScreenFile } from '@yarlop/contracts/validate';
import type { IdOf } from '@yarlop/contracts/formats';
import type { Conventions } from '@yarlop/core/formats/conventions';
import { describe, ownConventions, whichCorners } from '@yarlop/core/formats/conventions';
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

export type TextFormat = IdOf<'text'>;

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
          h.kind === 'outline' && !h.plane && !h.onPicture ? [{ name: `holdout ${i + 1}`, outline: h }] : [],
        ),
      ],
    ]),
  );
}

/** What every writer is given. */
interface Parts extends TextOptions {
  readonly conventions: Conventions;
}

type Writer = (track: Track, o: Parts) => string;

const matrices = ({ conventions, invert = false }: Parts) => ({ conventions, ...(invert ? { invert } : {}) });
const moves = (o: Parts) => ({ ...matrices(o), ...(o.points ? { points: o.points } : {}) });
const contentOf =
  ({ content }: Parts) =>
  (s: ScreenTrack): ContentSize =>
    content?.get(s.name) ?? pinSize(s);

function scene(track: Track, { screens, scene: options }: Parts): ReturnType<typeof sceneOf> {
  return sceneOf(track, new Map([...(screens ?? [])].map(([name, s]) => [name, s.device ?? 'other'])), options);
}

/** The plate as the one clip of an edit. */
function edit({ plate }: Track, { startTime }: Parts): string {
  const from = startTime ?? plate.firstFrame;
  const span = [from, plate.frameCount] as const;
  return writeOtio(plate, [{ name: 'plate', path: plate.name, available: span, used: span }], from);
}

const WRITERS: Readonly<Record<TextFormat, Writer>> = {
  csv: (track, o) => writeCsv(track, o.conventions),
  tsv: (track, o) => writeCsv(track, o.conventions, '\t'),
  json: (track, o) => writeTrackJson(toTrackFile(track, o.conventions, describe)),
  'homography-csv': (track, o) => writeHomographyCsv(track, matrices(o)),
  'homography-json': (track, o) => writeHomographyJson(track, matrices(o)),
  'opencv-yaml': (track, o) => writeOpenCvYaml(track, matrices(o)),
  'shapes-svg': (track, o) => writeShapesSvg(track, outlinesOf(o.screens), o.conventions.size),
  'shapes-json': (track, o) => writeShapesJson(track, outlinesOf(o.screens), o.conventions),
  'transform-csv': (track, o) => writeTransformCsv(track, moves(o)),
  'transform-json': (track, o) => writeTransformJson(track, moves(o)),
  gltf: (track, o) => writeGltf(track.plate, scene(track, o), o.backdrop),
  usda: (track, o) => writeUsda(track.plate, scene(track, o)),
  html: (track, o) => writeHtml(track, contentOf(o), o.page ?? { plate: null, fills: new Map() }),
  css: (track, o) => writeCss(track, contentOf(o), o.conventions.size),
  otio: edit,
  report: (track, o) => writeReport(track, o.report ?? {}),
};

/** Where formats that do not tell their conventions take a note of which corners these are. */
const NOTES: Partial<Record<TextFormat, (text: string, note: string) => string>> = {
  css: (text, note) => `/* ${note} */\n${text}`,
  html: (text, note) => text.replace(/<html[^>]*>/i, `$&\n<!-- ${note} -->`),
  'shapes-svg': (text, note) => text.replace('<svg', `<!-- ${note} -->\n<svg`),
  usda: (text, note) => text.replace('\n', `\n# ${note}\n`),
  gltf: (text, note) => {
    const scene = JSON.parse(text) as { asset: object };
    return `${JSON.stringify({ ...scene, asset: { ...scene.asset, extras: { corners: note } } })}\n`;
  },
};

/** @throws CoreError for a track that the format cannot carry */
export function writeText(track: Track, format: TextFormat, o: TextOptions = {}): string {
  const conventions = o.conventions ?? ownConventions(track.plate.width, track.plate.height);
  const note = whichCorners(conventions);
  const settings = [...(o.report?.settings ?? []), ...(note ? [['Corners', note] as const] : [])];
  const text = WRITERS[format](track, { ...o, conventions, report: { ...o.report, settings } });
  return note ? (NOTES[format]?.(text, note) ?? text) : text;
}
