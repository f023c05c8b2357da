/**
 * Corner data as comma-separated values (RFC 4180 rows, LF line ends) under a commented header that says the
 * convention. One row a frame; sigma and trust are always in plate pixels. Reading needs nothing but the file.
 */
import { CoreError } from '../errors';
import type { Matrix3 } from '../geometry/matrix3';
import { inverse } from '../geometry/matrix3';
import { normaliseHomography, quadToQuad } from '../geometry/homography';
import type { Quad } from '../geometry/quad';
import { CORNER_NAMES, assertPin, mapQuad, perspectiveCentre } from '../geometry/quad';
import type { Point } from '../geometry/point';
import type { PlateInfo, ScreenTrack, Track, TrackFrame } from '../track';
import type { Conventions } from './conventions';
import { table, unguarded } from './text';
import { ORIGINS, PIXEL_ORIGINS, UNITS, conventionMatrix, describe, ownConventions } from './conventions';

const CORNER_COLUMNS = CORNER_NAMES.flatMap((c) => [`${c.toLowerCase()}_x`, `${c.toLowerCase()}_y`]);
const COLUMNS = [
  'screen',
  'frame',
  'label',
  ...CORNER_COLUMNS,
  ...CORNER_NAMES.map((c) => `sigma_${c.toLowerCase()}`),
  'trust',
];

/** @param separator comma, or tab for tab-separated values */
export function writeCsv(
  track: Track,
  conventions = ownConventions(track.plate.width, track.plate.height),
  separator: ',' | '\t' = ',',
): string {
  const { plate } = track;
  const m = conventionMatrix(conventions, plate.width, plate.height);
  const header = [
    'Yarlop corner data, version 1',
    `plate: ${JSON.stringify(plate)}`,
    `coordinates: ${describe(conventions)}`,
    `conventions: ${JSON.stringify(conventions)}`,
    `reference: ${JSON.stringify(Object.fromEntries(track.screens.map((s) => [s.name, s.referenceFrame])))}`,
    ...(track.screens.some((s) => s.lens)
      ? [`lens: ${JSON.stringify(Object.fromEntries(track.screens.map((s) => [s.name, s.lens ?? 0])))}`]
      : []),
    `corners lie where the picture shows them${track.screens.some((s) => s.lens) ? ', distorted by the lens: radial term on half the width' : ''}; frame counts from 0; label is the frame as the shot numbers it; sigma and trust are in plate pixels`,
  ];
  return table(
    header,
    COLUMNS,
    track.screens.flatMap((s) =>
      s.frames.map((f) => [
        s.name,
        f.frame,
        f.frame + plate.firstFrame,
        ...mapQuad(m, f.corners).flat(),
        ...f.sigma,
        f.trust,
      ]),
    ),
    separator,
  );
}

/** Splits one row; quotes double inside quotes. */
export function cells(line: string, separator = ','): string[] {
  const out: string[] = [];
  let cell = '';
  let open = false;
  for (let i = 0; i < line.length; i++) {
    const c = line[i]!;
    if (open) {
      if (c !== '"') cell += c;
      else if (line[i + 1] === '"') cell += line[++i]!;
      else open = false;
    } else if (c === '"') open = true;
    else if (c === separator) {
      out.push(cell);
      cell = '';
    } else cell += c;
  }
  return [...out, cell];
}

function fail(line: number, message: string): never {
  throw new CoreError('invalid', `Line ${line}: ${message}`);
}

/** Lines "# key: value" before the columns, by their keys. */
type Comments = ReadonlyMap<string, { readonly line: number; readonly text: string }>;

function headerValue(comments: Comments, key: string): unknown {
  const entry = comments.get(key);
  if (!entry)
    throw new CoreError(
      'invalid',
      `The header has no line "# ${key}: ..."; this file was not written as Yarlop corner data.`,
    );
  try {
    return JSON.parse(entry.text);
  } catch {
    return fail(entry.line, `the header's ${key} is damaged.`);
  }
}

function checkedPlate(comments: Comments): PlateInfo {
  const plate = headerValue(comments, 'plate') as PlateInfo;
  const positive = [plate?.width, plate?.height, plate?.frameCount, plate?.frameRate?.[0], plate?.frameRate?.[1]];
  const isWhole = positive.every((v) => Number.isSafeInteger(v) && v > 0) && Number.isSafeInteger(plate.firstFrame);
  if (!isWhole || typeof plate.name !== 'string')
    fail(
      comments.get('plate')!.line,
      'the plate needs a name, whole positive width, height, frameCount and frameRate, and a whole firstFrame.',
    );
  return plate;
}

function checkedConventions(comments: Comments): Conventions {
  const c = headerValue(comments, 'conventions') as Conventions;
  const isNamed = ORIGINS.includes(c?.origin) && UNITS.includes(c.units) && PIXEL_ORIGINS.includes(c.pixelOrigin);
  if (!isNamed || c.size?.length !== 2 || !c.size.every((v) => v > 0))
    fail(
      comments.get('conventions')!.line,
      'the conventions name an origin, units, pixelOrigin or size that is not known.',
    );
  return c;
}

/** A row as it was read; corners in px of the plate. */
interface Row {
  readonly line: number;
  readonly frame: number;
  readonly corners: Quad;
  readonly sigma: number[];
  readonly trust: number;
}

/** The columns of a file: what separates them, and where each of {@link COLUMNS} stands. */
interface Header {
  readonly separator: '\t' | ',';
  readonly places: readonly number[];
}

function columnsOf(text: string, line: number): Header {
  const separator = text.includes('\t') ? '\t' : ',';
  const columns = cells(text, separator).map((c) => c.trim().toLowerCase());
  const missing = COLUMNS.filter((c) => !columns.includes(c));
  if (missing.length > 0) fail(line, `the column${missing.length > 1 ? 's' : ''} ${missing.join(', ')} are missing.`);
  return { separator, places: COLUMNS.map((c) => columns.indexOf(c)) };
}

/** @param back of the file's convention to px of the plate */
function rowOf(text: string, line: number, { separator, places }: Header, back: Matrix3): [name: string, row: Row] {
  const row = cells(text, separator);
  const value = places.map((k) => row[k] ?? '');
  const numbers = value.map((v) => (v.trim() === '' ? NaN : Number(v)));
  for (let k = 1; k < COLUMNS.length; k++)
    if (!Number.isFinite(numbers[k]!))
      fail(line, `${COLUMNS[k]} is "${value[k]}", not a number (decimals take a point, columns a comma).`);
  const [, frame] = numbers;
  if (!Number.isSafeInteger(frame!) || frame! < 0) fail(line, `frame is ${value[1]}; frames are whole numbers from 0.`);
  const corners = [0, 1, 2, 3].map((c): Point => [numbers[3 + 2 * c]!, numbers[4 + 2 * c]!]) as unknown as Quad;
  const told = { sigma: numbers.slice(11, 15), trust: numbers[15]! };
  return [unguarded(value[0]!), { line, frame: frame!, corners: mapQuad(back, corners), ...told }];
}

function commentsOf(lines: readonly string[]): Comments {
  const comments = new Map<string, { line: number; text: string }>();
  for (const [i, text] of lines.entries()) {
    const [, key, value] = /^# (\w+): (.*)$/s.exec(text) ?? [];
    if (key) comments.set(key, { line: i + 1, text: value! });
  }
  return comments;
}

/**
 * Reads a file that {@link writeCsv} made, in whatever convention. The corners become hand evidence: where they came
 * from is not known to the file.
 * @throws CoreError `invalid` with the line and the reason
 */
export function readCsv(text: string): Track {
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  const first = lines.findIndex((l) => !l.startsWith('#'));
  const at = first < 0 ? lines.length : first;
  const comments = commentsOf(lines.slice(0, at));
  const plate = checkedPlate(comments);
  const back = inverse(conventionMatrix(checkedConventions(comments), plate.width, plate.height));
  const reference = headerValue(comments, 'reference') as Record<string, number>;
  const header = columnsOf(lines[at] ?? '', at + 1);
  const screens = new Map<string, Row[]>();
  for (let i = at + 1; i < lines.length; i++) {
    if (lines[i]!.trim() === '') continue;
    const [name, row] = rowOf(lines[i]!, i + 1, header, back);
    const rows = screens.get(name);
    if (rows) rows.push(row);
    else screens.set(name, [row]);
  }
  if (screens.size === 0) throw new CoreError('invalid', 'The file holds a header but no rows.');
  const lens = comments.has('lens') ? (headerValue(comments, 'lens') as Record<string, number>) : {};
  return {
    plate,
    screens: [...screens].map(([name, rows]) => ({
      ...imported(name, rows, reference[name]),
      ...(lens[name] ? { lens: lens[name] } : {}),
    })),
  };
}

function imported(name: string, rows: Row[], reference: number | undefined): ScreenTrack {
  rows.sort((a, b) => a.frame - b.frame);
  for (const [i, r] of rows.entries()) {
    const next = rows[i + 1];
    if (next && next.frame === r.frame) fail(next.line, `frame ${r.frame} of "${name}" stands twice.`);
    if (next && next.frame !== r.frame + 1)
      fail(next.line, `frames ${r.frame + 1} to ${next.frame - 1} of "${name}" are missing.`);
  }
  const first = rows.find((r) => r.frame === reference);
  if (!first)
    throw new CoreError('invalid', `The header's reference frame of "${name}" (${reference ?? 'none'}) has no row.`);
  const centre = perspectiveCentre(first.corners);
  const frames = rows.map((r): TrackFrame => {
    try {
      assertPin(r.corners);
    } catch (e) {
      fail(r.line, (e as Error).message);
    }
    const homography = normaliseHomography(quadToQuad(first.corners, r.corners), centre);
    return { frame: r.frame, corners: r.corners, homography, sigma: r.sigma, trust: r.trust, evidence: { hand: 1 } };
  });
  return { name, referenceFrame: first.frame, stopped: null, frames };
}
