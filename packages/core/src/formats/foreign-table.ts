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

/** @throws CoreError `invalid` with the line: doubled frames, cells that are no numbers, corners that make no screen */
export function foreignTrack(t: ForeignTable, o: ForeignOptions): ForeignTrack {
  const { plate, columns } = o;
  const back = inverse(
    conventionMatrix(o.conventions ?? ownConventions(plate.width, plate.height), plate.width, plate.height),
  );
  const notes: string[] = [];
  const seen = new Map<number, number>();
  const read = t.rows
    .map(({ line, values }, i) => {
      const number = columns.frame < 0 ? i : values[columns.frame]!;
      const frame = number - (o.firstNumber ?? 0);
      const at = (k: number): number => values[columns.corners[k]!]!;
      if (!Number.isInteger(frame)) fail(line, `the frame is "${number}", not a whole number.`);
      if (seen.has(frame)) fail(line, `frame ${number} stands here and on line ${seen.get(frame)}; remove one.`);
      seen.set(frame, line);
      const quad = [0, 1, 2, 3].map((c): Point => [at(2 * c), at(2 * c + 1)]) as unknown as Quad;
      if (!quad.flat().every(Number.isFinite))
        fail(
          line,
          `a corner is no number${t.separator === ',' ? ' (decimals take a point where commas separate columns)' : ''}.`,
        );
      return { line, frame, corners: mapQuad(back, quad) };
    })
    .sort((a, b) => a.frame - b.frame);
  const inside = read.filter((r) => r.frame >= 0 && r.frame < plate.frameCount);
  if (inside.length === 0)
    throw new CoreError(
      'invalid',
      `The file's frames (${read[0]!.frame} to ${read.at(-1)!.frame}) lie outside the plate's, 0 to ${plate.frameCount - 1}; say which number the plate's first frame has.`,
    );
  if (inside.length < read.length)
    notes.push(`${read.length - inside.length} rows lie outside the plate and are left out.`);
  const centreIn = inside.filter((r) =>
    r.corners.every(([x, y]) => x > -plate.width && y > -plate.height && x < 2 * plate.width && y < 2 * plate.height),
  ).length;
  const crossed = inside.filter((r) => !isConvex(r.corners)).length;
  if (centreIn < inside.length / 2)
    notes.push('Most corners lie far outside the picture: check the size, the units and whether x and y are swapped.');
  // Corners row by row, as a Z, come crossed; those against the clock come turned over.
  const order =
    crossed > inside.length / 2 && inside.every((r) => isConvex(zigzag(r.corners))) ? zigzag : (q: Quad): Quad => q;
  if (order === zigzag) notes.push('The corners came row by row (TL, TR, BL, BR) and were put around the screen.');
  if (inside.filter((r) => signedArea(order(r.corners)) < 0).length > inside.length / 2)
    notes.push(
      'The corners run against the clock: the content would stand mirrored. Check the order, or whether y counts from the bottom.',
    );
  const all: { frame: number; corners: Quad }[] = [];
  for (const r of inside) {
    const q = order(r.corners);
    const last = all.at(-1);
    try {
      assertPin(q);
    } catch (e) {
      fail(r.line, (e as Error).message);
    }
    // A gap is closed evenly, and told.
    if (last)
      for (let n = last.frame + 1; n < r.frame; n++) {
        const k = (n - last.frame) / (r.frame - last.frame);
        all.push({
          frame: n,
          corners: last.corners.map((p, i) => [
            p[0] + k * (q[i]![0] - p[0]),
            p[1] + k * (q[i]![1] - p[1]),
          ]) as unknown as Quad,
        });
      }
    all.push({ frame: r.frame, corners: q });
  }
  const missing = all.length - inside.length;
  const reference = all[0]!;
  const centre = perspectiveCentre(reference.corners);
  if (missing > 0)
    notes.push(
      `${missing} ${missing === 1 ? 'frame is' : 'frames are'} missing in the file and ${missing === 1 ? 'was' : 'were'} put evenly between their neighbours.`,
    );
  const frames = all.map(({ frame, corners }): TrackFrame => ({
    frame,
    corners,
    homography: normaliseHomography(quadToQuad(reference.corners, corners), centre),
    sigma: [1, 1, 1, 1],
    trust: 0.5,
    evidence: { hand: 1 },
  }));
  return {
    track: { plate, screens: [{ name: o.name, referenceFrame: reference.frame, stopped: null, frames }] },
    notes,
  };
}

function zigzag(q: Quad): Quad {
  return [q[0], q[1], q[3], q[2]];
}
