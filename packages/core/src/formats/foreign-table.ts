/**
 * Corner tables that other programs wrote: whatever separates their cells, decimal commas, byte-order marks, headers or
 * none. What the columns are is told by their names or by their order, and can be said by the person; what is wrong is
 * told with its line.
 */
import { CoreError } from '../errors';
import { inverse } from '../geometry/matrix3';
import { normaliseHomography, quadToQuad } from '../geometry/homography';
import type { Point } from '../geometry/point';
import type { Quad } from '../geometry/quad';
import { assertPin, isConvex, mapQuad, perspectiveCentre, signedArea } from '../geometry/quad';
import type { PlateInfo, Track, TrackFrame } from '../track';
import type { Conventions } from './conventions';
import { conventionMatrix, ownConventions } from './conventions';
import { cells } from './csv';

/** What a file is by its first lines: `FILE_KINDS` that Yarlop writes, or a table of another program. */
export type FileKind = 'csv' | 'homography-csv' | 'opencv-yaml' | 'json' | 'homography-json' | 'table';

/** A mark that stands within the first {@link HEAD} characters of each kind. */
const FILE_KINDS: readonly (readonly [FileKind, RegExp])[] = [
  ['csv', /^\uFEFF?# Yarlop corner data/],
  ['homography-csv', /^\uFEFF?# Yarlop homographies/],
  ['opencv-yaml', /^%YAML/],
  ['json', /"yarlop-track"/],
  ['homography-json', /"yarlop-homographies"/],
];

/** Characters of a file that are looked at: a JSON's name of its format stands within its first lines. */
const HEAD = 400;

/** What kind of file a text is, by its first characters. */
export function fileKind(text: string): FileKind {
  const head = text.slice(0, HEAD);
  return FILE_KINDS.find(([, mark]) => mark.test(head))?.[0] ?? 'table';
}

/** Column of the frame, and of x and y of TL, TR, BR, BL. */
export interface Columns {
  readonly frame: number;
  readonly corners: readonly number[];
}

export interface ForeignTable {
  readonly separator: ',' | ';' | '\t' | ' ';
  readonly decimalComma: boolean;
  /** names of the columns, or null where there are none */
  readonly header: readonly string[] | null;
  /** numbers by row, with the line that each stands on */
  readonly rows: readonly { readonly line: number; readonly values: readonly number[] }[];
  /** what the columns are taken for; null where the names do not tell and the order does not fit */
  readonly columns: Columns | null;
}

/** Rows that are read: a day of frames at 12 a second. */
const MOST_ROWS = 1_000_000;
const CORNERS = [
  /^(tl|top.?left|ul|upper.?left)/,
  /^(tr|top.?right|ur|upper.?right)/,
  /^(br|bottom.?right|lr|lower.?right)/,
  /^(bl|bottom.?left|ll|lower.?left)/,
];

function fail(line: number, message: string): never {
  throw new CoreError('invalid', `Line ${line}: ${message}`);
}

function columnsOf(header: readonly string[] | null, width: number): Columns | null {
  if (!header) {
    if (width === 9) return { frame: 0, corners: [1, 2, 3, 4, 5, 6, 7, 8] };
    if (width === 8) return { frame: -1, corners: [0, 1, 2, 3, 4, 5, 6, 7] };
    return null;
  }
  const names = header.map((h) => h.trim().toLowerCase());
  const frame = names.findIndex((n) => /^(frame|f|fr|#|nr|number|time)$/.test(n));
  const corners = CORNERS.flatMap((c) =>
    ['x', 'y'].map((axis) => names.findIndex((n) => c.test(n) && new RegExp(`[^a-z]?${axis}$`).test(n))),
  );
  if (corners.every((c) => c >= 0)) return { frame, corners };
  return names.length === 9 && frame === 0 ? { frame: 0, corners: [1, 2, 3, 4, 5, 6, 7, 8] } : null;
}

/** @throws CoreError `invalid` with the line, for a file that is no table of numbers */
export function readForeign(text: string): ForeignTable {
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/);
  const used = lines
    .map((l, i) => ({ text: l.trim(), line: i + 1 }))
    .filter((l) => l.text !== '' && !/^[#!%]|^\/\//.test(l.text));
  if (used.length === 0) throw new CoreError('invalid', 'The file holds no rows.');
  if (used.length > MOST_ROWS)
    throw new CoreError('invalid', `The file holds ${used.length} rows; at most ${MOST_ROWS} are read.`);
  const sample = used
    .slice(0, 20)
    .map((l) => l.text)
    .join('\n');
  let separator: '\t' | ';' | ',' | ' ';
  if (sample.includes('\t')) separator = '\t';
  else if (sample.includes(';')) separator = ';';
  else if (sample.includes(',')) separator = ',';
  else separator = ' ';
  const split = (l: string): string[] =>
    (separator === ' ' ? l.split(/\s+/) : cells(l, separator)).map((v) => v.trim());
  const decimalComma = separator !== ',' && used.some((l) => split(l.text).some((v) => /^-?\d+,\d+$/.test(v)));
  const number = (v: string): number => (v === '' ? NaN : Number(decimalComma ? v.replace(',', '.') : v));
  const first = split(used[0]!.text);
  const header = first.some((v) => !Number.isFinite(number(v))) ? first : null;
  const width = (header ?? split(used[0]!.text)).length;
  const rows = used.slice(header ? 1 : 0).map((l) => ({ line: l.line, values: split(l.text).map(number) }));
  if (rows.length === 0) throw new CoreError('invalid', 'The file holds a header but no rows.');
  return { separator, decimalComma, header, rows, columns: columnsOf(header, width) };
}

export interface ForeignOptions {
  readonly name: string;
  readonly plate: PlateInfo;
  readonly columns: Columns;
  readonly conventions?: Conventions;
  /** subtracted from the file's frame numbers: what the file calls frame 0 of the plate */
  readonly firstNumber?: number;
}

export interface ForeignTrack {
  readonly track: Track;
  /** what the person should know: frames that were missing, corners in another order, axes that look swapped */
  readonly notes: readonly string[];
}

/** A row of the file in px of the plate. */
interface Row {
  readonly line: number;
  readonly frame: number;
  readonly corners: Quad;
}

/** Its rows by frame. @throws CoreError `invalid` with the line: doubled frames, cells that are no numbers */
function rowsOf(t: ForeignTable, { plate, columns, firstNumber = 0, conventions }: ForeignOptions): Row[] {
  const { width, height } = plate;
  const back = inverse(conventionMatrix(conventions ?? ownConventions(width, height), width, height));
  const seen = new Map<number, number>();
  const rows = t.rows.map(({ line, values }, i): Row => {
    const number = columns.frame < 0 ? i : values[columns.frame]!;
    const frame = number - firstNumber;
    const at = (k: number): number => values[columns.corners[k]!]!;
    if (!Number.isInteger(frame)) fail(line, `the frame is "${number}", not a whole number.`);
    if (seen.has(frame)) fail(line, `frame ${number} stands here and on line ${seen.get(frame)}; remove one.`);
    seen.set(frame, line);
    const quad = [0, 1, 2, 3].map((c): Point => [at(2 * c), at(2 * c + 1)]) as unknown as Quad;
    const mend = t.separator === ',' ? ' (decimals take a point where commas separate columns)' : '';
    if (!quad.flat().every(Number.isFinite)) fail(line, `a corner is no number${mend}.`);
    return { line, frame, corners: mapQuad(back, quad) };
  });
  return rows.sort((a, b) => a.frame - b.frame);
}

/** Rows of the plate's own frames. @throws CoreError where there is none */
function rowsInside(rows: readonly Row[], { frameCount }: PlateInfo): Row[] {
  const inside = rows.filter((r) => r.frame >= 0 && r.frame < frameCount);
  if (inside.length === 0)
    throw new CoreError(
      'invalid',
      `The file's frames (${rows[0]!.frame} to ${rows.at(-1)!.frame}) lie outside the plate's, 0 to ${frameCount - 1}; say which number the plate's first frame has.`,
    );
  return inside;
}

/** Whether most corners lie farther outside the picture than it is large. */
function liesElsewhere(rows: readonly Row[], { width, height }: PlateInfo): boolean {
  const isNear = ([x, y]: Point): boolean => x > -width && y > -height && x < 2 * width && y < 2 * height;
  return rows.filter((r) => r.corners.every(isNear)).length < rows.length / 2;
}

/** Whether corners stand row by row, as a Z: they come crossed then. */
function isRowByRow(rows: readonly Row[]): boolean {
  const crossed = rows.filter((r) => !isConvex(r.corners)).length;
  return crossed > rows.length / 2 && rows.every((r) => isConvex(zigzag(r.corners)));
}

/** Whether most corners run against the clock: they come turned over. */
function isMirrored(rows: readonly Row[]): boolean {
  return rows.filter((r) => signedArea(r.corners) < 0).length > rows.length / 2;
}

/** Corners of every frame; gaps are closed evenly. @throws CoreError with the line of corners that make no screen */
function withoutGaps(rows: readonly Row[]): { frame: number; corners: Quad }[] {
  const all: { frame: number; corners: Quad }[] = [];
  for (const r of rows) {
    try {
      assertPin(r.corners);
    } catch (e) {
      fail(r.line, (e as Error).message);
    }
    const last = all.at(-1);
    for (let n = last ? last.frame + 1 : r.frame; n < r.frame; n++) {
      const k = (n - last!.frame) / (r.frame - last!.frame);
      const between = last!.corners.map(([x, y], i): Point => {
        const [nextX, nextY] = r.corners[i]!;
        return [x + k * (nextX - x), y + k * (nextY - y)];
      });
      all.push({ frame: n, corners: between as unknown as Quad });
    }
    all.push({ frame: r.frame, corners: r.corners });
  }
  return all;
}

/** @throws CoreError `invalid` with the line: doubled frames, cells that are no numbers, corners that make no screen */
export function foreignTrack(t: ForeignTable, o: ForeignOptions): ForeignTrack {
  const { plate } = o;
  const notes: string[] = [];
  const read = rowsOf(t, o);
  const inside = rowsInside(read, plate);
  if (inside.length < read.length)
    notes.push(`${read.length - inside.length} rows lie outside the plate and are left out.`);
  if (liesElsewhere(inside, plate))
    notes.push('Most corners lie far outside the picture: check the size, the units and whether x and y are swapped.');
  const isCrossed = isRowByRow(inside);
  const rows = isCrossed ? inside.map((r) => ({ ...r, corners: zigzag(r.corners) })) : inside;
  if (isCrossed) notes.push('The corners came row by row (TL, TR, BL, BR) and were put around the screen.');
  if (isMirrored(rows))
    notes.push(
      'The corners run against the clock: the content would stand mirrored. Check the order, or whether y counts from the bottom.',
    );
  const all = withoutGaps(rows);
  const missing = all.length - rows.length;
  if (missing > 0)
    notes.push(
      `${missing} ${missing === 1 ? 'frame is' : 'frames are'} missing in the file and ${missing === 1 ? 'was' : 'were'} put evenly between their neighbours.`,
    );
  const reference = all[0]!;
  const centre = perspectiveCentre(reference.corners);
  const frames = all.map(({ frame, corners }): TrackFrame => ({
    frame,
    corners,
    homography: normaliseHomography(quadToQuad(reference.corners, corners), centre),
    sigma: [1, 1, 1, 1],
    trust: 0.5,
    evidence: { hand: 1 },
  }));
  const screen = { name: o.name, referenceFrame: reference.frame, stopped: null, frames };
  return { track: { plate, screens: [screen] }, notes };
}

function zigzag(q: Quad): Quad {
  return [q[0], q[1], q[3], q[2]];
}
