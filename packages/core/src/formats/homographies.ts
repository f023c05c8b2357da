/**
 * The plane's homographies per frame: as a table, as JSON, and in the YAML that OpenCV's FileStorage writes and reads
 * (matrices tagged `!!opencv-matrix`: rows, cols, dt, data row by row). Matrices map column vectors in the stated
 * coordinates.
 */
import { CoreError } from '../errors';
import { mapQuad, perspectiveCentre } from '../geometry/quad';
import type { Quad } from '../geometry/quad';
import { IDENTITY, inverse } from '../geometry/matrix3';
import { mapPoint, normaliseHomography } from '../geometry/homography';
import type { ScreenTrack, Track, TrackFrame } from '../track';
import type { Conventions } from './conventions';
import { conjugate, conventionMatrix, describe, isOwn, ownConventions } from './conventions';
import { cells } from './csv';
import { table, unguarded } from './text';
import { referencePin } from './track-json';

export interface HomographyOptions {
  readonly conventions?: Conventions;
  /** frame to reference instead */
  readonly invert?: boolean;
}

/** A frame's matrix, with what else of it stands in the file. */
interface WrittenFrame {
  readonly frame: number;
  readonly homography: readonly number[];
}

interface Written<F extends WrittenFrame = WrittenFrame & { readonly label: number }> {
  readonly name: string;
  readonly referenceFrame: number;
  /** on the reference frame, in the file's coordinates */
  readonly pin: Quad;
  readonly frames: readonly F[];
}

const COLUMNS = ['screen', 'frame', 'label', ...[1, 2, 3].flatMap((r) => [1, 2, 3].map((c) => `h${r}${c}`))];
const direction = (invert: boolean): string => (invert ? 'frame to reference' : 'reference to frame');

function written(
  track: Track,
  { conventions, invert = false }: HomographyOptions,
): { readonly own: Conventions; readonly screens: readonly Written[] } {
  const { plate } = track;
  const own = conventions ?? ownConventions(plate.width, plate.height);
  const m = conventionMatrix(own, plate.width, plate.height);
  const plain = isOwn(own, plate.width, plate.height);
  const kept = (v: number): number => Number(v.toPrecision(14));
  return {
    own,
    screens: track.screens.map((s) => {
      const pin = referencePin(s);
      const centre = perspectiveCentre(pin);
      return {
        name: s.name,
        referenceFrame: s.referenceFrame,
        pin: mapQuad(m, pin).map((p) => p.map((v) => Number(v.toPrecision(11)))) as unknown as Quad,
        frames: s.frames.map((f) => {
          const there = plain ? f.homography : conjugate(f.homography, m, centre);
          const at = mapPoint(m, mapPoint(f.homography, centre));
          return {
            frame: f.frame,
            label: f.frame + plate.firstFrame,
            homography: (invert ? normaliseHomography(inverse(there), at) : there).map(kept),
          };
        }),
      };
    }),
  };
}

/** Homographies as CSV (RFC 4180): a row a frame, nine numbers row-major. */
export function writeHomographyCsv(track: Track, o: HomographyOptions = {}): string {
  const { own, screens } = written(track, o);
  return table(
    [
      'Yarlop homographies, version 1',
      `plate: ${JSON.stringify(track.plate)}`,
      `coordinates: ${describe(own)}`,
      `conventions: ${JSON.stringify(own)}`,
      `maps: column vectors (x, y, 1), ${direction(o.invert ?? false)}; unit Frobenius norm`,
      `pins: ${JSON.stringify(Object.fromEntries(screens.map((s) => [s.name, { referenceFrame: s.referenceFrame, pin: s.pin }])))}`,
      'frame counts from 0; label is the frame as the shot numbers it',
    ],
    COLUMNS,
    screens.flatMap((s) => s.frames.map((f) => [s.name, f.frame, f.label, ...f.homography])),
  );
}

/** Homographies as JSON (RFC 8259), nine numbers a frame, row-major. */
export function writeHomographyJson(track: Track, o: HomographyOptions = {}): string {
  const { own, screens } = written(track, o);
  const head = JSON.stringify(
    {
      format: 'yarlop-homographies',
      version: 1,
      plate: track.plate,
      coordinates: describe(own),
      conventions: own,
      maps: direction(o.invert ?? false),
    },
    null,
    2,
  );
  const lines = screens.map(
    ({ frames, ...rest }) =>
      `    ${JSON.stringify(rest).slice(0, -1)}, "frames": [\n${frames.map((f) => `      ${JSON.stringify(f)}`).join(',\n')}\n    ] }`,
  );
  return `${head.slice(0, -2)},\n  "screens": [\n${lines.join(',\n')}\n  ]\n}\n`;
}

const yamlNumber = (v: number): string => (Number.isInteger(v) ? `${v}.` : v.toExponential(16));
function yamlMatrix(indent: string, key: string, rows: number, cols: number, data: readonly number[]): string {
  return `${indent}${key}: !!opencv-matrix\n${indent}   rows: ${rows}\n${indent}   cols: ${cols}\n${indent}   dt: d\n${indent}   data: [ ${data.map(yamlNumber).join(', ')} ]\n`;
}

/** One map per Screen, a matrix per frame named by its number. */
export function writeOpenCvYaml(track: Track, o: HomographyOptions = {}): string {
  const { own, screens } = written(track, o);
  const { plate } = track;
  const text = (s: string): string => JSON.stringify(s);
  const head = `%YAML:1.0\n---\nformat: "yarlop-homographies"\nplate_name: ${text(plate.name)}\nplate_width: ${plate.width}\nplate_height: ${plate.height}\nframe_rate: [ ${plate.frameRate.join(', ')} ]\nfirst_label: ${plate.firstFrame}\nframe_count: ${plate.frameCount}\ncoordinates: ${text(describe(own))}\norigin: ${text(own.origin)}\nunits: ${text(own.units)}\npixel_origin: ${text(own.pixelOrigin)}\nsize: [ ${own.size.join(', ')} ]\nmaps: ${text(direction(o.invert ?? false))}\nscreen_count: ${screens.length}\n`;
  return (
    head +
    screens
      .map(
        (s, i) =>
          `screen_${i}:\n   name: ${text(s.name)}\n   reference_frame: ${s.referenceFrame}\n${yamlMatrix('   ', 'pin', 4, 2, s.pin.flat())}${s.frames.map((f) => yamlMatrix('   ', `frame_${f.frame}`, 3, 3, f.homography)).join('')}`,
      )
      .join('')
  );
}

/** Frames from matrices and a pin in the file's coordinates. @param back of those to px of the plate */
function screenFrom(
  { name, referenceFrame, pin, frames }: Written<WrittenFrame>,
  invert: boolean,
  back: readonly number[],
): ScreenTrack {
  const plain = back.every((v, i) => v === IDENTITY[i]);
  const ownPin = mapQuad(back, pin);
  const centre = perspectiveCentre(ownPin);
  const sorted = [...frames].sort((a, b) => a.frame - b.frame);
  const made = sorted.map(({ frame, homography }, i): TrackFrame => {
    if (frame !== sorted[0]!.frame + i)
      throw new CoreError(
        'invalid',
        `Screen "${name}": frame ${frame} stands where ${sorted[0]!.frame + i} belongs; frames must rise by one.`,
      );
    const there = invert ? inverse(homography) : homography;
    const h =
      plain && !invert
        ? homography.slice()
        : normaliseHomography(conjugate(there, back, mapPoint(inverse(back), centre)), centre);
    if (!h.every(Number.isFinite))
      throw new CoreError('invalid', `Screen "${name}", frame ${frame}: the matrix is singular.`);
    const corners = mapQuad(h, ownPin);
    return { frame, homography: h, corners, sigma: [1, 1, 1, 1], trust: 0.5, evidence: { hand: 1 } };
  });
  if (!made.some((f) => f.frame === referenceFrame))
    throw new CoreError('invalid', `Screen "${name}" has no matrix for its reference frame ${referenceFrame}.`);
  return { name, referenceFrame, stopped: null, frames: made };
}

interface ReadHead {
  readonly plate: Track['plate'];
  readonly conventions: Conventions;
  readonly maps: string;
}

function backOf({ plate, conventions: c }: ReadHead): number[] {
  if (![plate?.width, plate?.height, c?.size?.[0], c?.size?.[1]].every((v) => typeof v === 'number' && v > 0))
    throw new CoreError('invalid', 'The file does not say the size of its plate and of its coordinates.');
  return inverse(conventionMatrix(c, plate.width, plate.height));
}

/** What {@link writeHomographyJson} wrote. @throws CoreError `invalid` */
export function readHomographyJson(value: unknown): Track {
  const file = value as ReadHead & { format?: string; screens?: Written[] };
  if (file?.format !== 'yarlop-homographies' || !Array.isArray(file.screens))
    throw new CoreError(
      'invalid',
      'This file is not a Yarlop homography file: its format is not "yarlop-homographies".',
    );
  const back = backOf(file);
  return {
    plate: file.plate,
    screens: file.screens.map((s) => screenFrom(s, file.maps === direction(true), back)),
  };
}

interface YamlMatrix {
  readonly rows: number;
  readonly cols: number;
  readonly data: readonly number[];
}

/** What {@link writeOpenCvYaml} wrote, as a YAML parser gives it. @throws CoreError `invalid` */
export function readOpenCvYaml(value: unknown): Track {
  const y = value as Record<string, unknown>;
  if (y?.['format'] !== 'yarlop-homographies')
    throw new CoreError(
      'invalid',
      'This YAML was not written by Yarlop: it lacks the pins and the coordinates that corners are made from.',
    );
  const [width, height] = [y['plate_width'], y['plate_height']] as number[];
  const rate = y['frame_rate'] as [number, number];
  const head: ReadHead = {
    plate: {
      name: String(y['plate_name']),
      width: width!,
      height: height!,
      frameRate: rate,
      firstFrame: Number(y['first_label']),
      frameCount: Number(y['frame_count']),
    },
    conventions: {
      origin: y['origin'],
      units: y['units'],
      pixelOrigin: y['pixel_origin'],
      size: y['size'],
    } as Conventions,
    maps: String(y['maps']),
  };
  const back = backOf(head);
  const screens = Array.from({ length: Number(y['screen_count']) }, (_, i) => {
    const s = y[`screen_${i}`] as Record<string, unknown> | undefined;
    const pin = s?.['pin'] as YamlMatrix | undefined;
    if (!s || pin?.data?.length !== 8) throw new CoreError('invalid', `screen_${i} or its pin (4 by 2) is missing.`);
    const frames = Object.entries(s).flatMap(([key, m]) => {
      const [, n] = /^frame_(\d+)$/.exec(key) ?? [];
      if (n === undefined) return [];
      if ((m as YamlMatrix).data?.length !== 9)
        throw new CoreError('invalid', `screen_${i}, ${key}: a matrix has nine numbers.`);
      return [{ frame: Number(n), homography: (m as YamlMatrix).data }];
    });
    const own = [0, 1, 2, 3].map((k) => [pin.data[2 * k]!, pin.data[2 * k + 1]!]) as unknown as Quad;
    const screen = { name: String(s['name']), referenceFrame: Number(s['reference_frame']), pin: own, frames };
    return screenFrom(screen, head.maps === direction(true), back);
  });
  return { plate: head.plate, screens };
}

/** What {@link writeHomographyCsv} wrote. @throws CoreError `invalid` with the line */
export function readHomographyCsv(text: string): Track {
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  const comments = new Map(
    lines
      .filter((l) => l.startsWith('# '))
      .flatMap((l) => {
        const [, key, value] = /^# (\w+): (.*)$/s.exec(l) ?? [];
        return key ? [[key, value!] as const] : [];
      }),
  );
  const said = <T>(key: string): T => {
    try {
      return JSON.parse(comments.get(key) ?? '') as T;
    } catch {
      throw new CoreError(
        'invalid',
        `The header has no sound line "# ${key}: ...": corners cannot be made from matrices alone.`,
      );
    }
  };
  const head: ReadHead = { plate: said('plate'), conventions: said('conventions'), maps: comments.get('maps') ?? '' };
  const pins = said<Record<string, { referenceFrame: number; pin: Quad }>>('pins');
  const back = backOf(head);
  const invert = head.maps.includes(direction(true));
  const by = new Map<string, { frame: number; homography: number[] }[]>();
  const first = lines.findIndex((l) => !l.startsWith('#') && l.trim() !== '');
  for (const [i, line] of lines.entries()) {
    if (i <= first || line.trim() === '' || line.startsWith('#')) continue;
    const [cell = '', ...rest] = cells(line);
    const name = unguarded(cell);
    const numbers = rest.map(Number);
    if (numbers.length !== 11 || !numbers.every(Number.isFinite))
      throw new CoreError('invalid', `Line ${i + 1}: eleven numbers belong after the Screen's name.`);
    if (!by.has(name)) by.set(name, []);
    by.get(name)!.push({ frame: numbers[0]!, homography: numbers.slice(2) });
  }
  return {
    plate: head.plate,
    screens: [...by].map(([name, frames]) => {
      const p = pins[name];
      if (!p) throw new CoreError('invalid', `The header has no pin for Screen "${name}".`);
      return screenFrom({ name, ...p, frames }, invert, back);
    }),
  };
}
