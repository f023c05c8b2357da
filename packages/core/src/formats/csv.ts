/**
 * Corner data as comma-separated values (RFC 4180 rows, LF line ends) under a commented header that says the
 * convention. One row a frame; sigma and trust are always in plate pixels. Reading needs nothing but the file.
 */
import { CoreError } from '../errors';
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

function headerValue(comments: Map<string, { line: number; text: string }>, key: string): unknown {
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

function checkedHeader(comments: Map<string, { line: number; text: string }>): {
  plate: PlateInfo;
  conventions: Conventions;
  reference: Record<string, number>;
} {
  const plate = headerValue(comments, 'plate') as PlateInfo;
  const positive = [plate?.width, plate?.height, plate?.frameCount, plate?.frameRate?.[0], plate?.frameRate?.[1]];
  if (
    !positive.every((v) => Number.isSafeInteger(v) && v > 0) ||
    !Number.isSafeInteger(plate.firstFrame) ||
    typeof plate.name !== 'string'
  )
    fail(
      comments.get('plate')!.line,
      'the plate needs a name, whole positive width, height, frameCount and frameRate, and a whole firstFrame.',
    );
  const c = headerValue(comments, 'conventions') as Conventions;
  const known =
    ORIGINS.includes(c?.origin) &&
    UNITS.includes(c.units) &&
    PIXEL_ORIGINS.includes(c.pixelOrigin) &&
    c.size?.length === 2 &&
    c.size.every((v) => v > 0);
  if (!known)
    fail(
      comments.get('conventions')!.line,
      'the conventions name an origin, units, pixelOrigin or size that is not known.',
    );
  return { plate, conventions: c, reference: headerValue(comments, 'reference') as Record<string, number> };
}

/**
 * Reads a file that {@link writeCsv} made, in whatever convention. The corners become hand evidence: where they came
 * from is not known to the file.
 * @throws CoreError `invalid` with the line and the reason
 */
export function readCsv(text: string): Track {
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  const comments = new Map<string, { line: number; text: string }>();
  let at = 0;
  for (; at < lines.length && lines[at]!.startsWith('#'); at++) {
    const [, key, value] = /^# (\w+): (.*)$/s.exec(lines[at]!) ?? [];
    if (key) comments.set(key, { line: at + 1, text: value! });
  }
  const { plate, conventions, reference } = checkedHeader(comments);
  const separator = (lines[at] ?? '').includes('\t') ? '\t' : ',';
  const columns = cells(lines[at] ?? '', separator).map((c) => c.trim().toLowerCase());
  const missing = COLUMNS.filter((c) => !columns.includes(c));
  if (missing.length > 0) fail(at + 1, `the column${missing.length > 1 ? 's' : ''} ${missing.join(', ')} are missing.`);
  const index = COLUMNS.map((c) => columns.indexOf(c));
  const back = inverse(conventionMatrix(conventions, plate.width, plate.height));
  const screens = new Map<string, { line: number; frame: number; corners: Quad; sigma: number[]; trust: number }[]>();
  for (let i = at + 1; i < lines.length; i++) {
    if (lines[i]!.trim() === '') continue;
    const row = cells(lines[i]!, separator);
    const value = index.map((k) => row[k] ?? '');
    const numbers = value.map((v) => (v.trim() === '' ? NaN : Number(v)));
    for (let k = 1; k < COLUMNS.length; k++)
      if (!Number.isFinite(numbers[k]!))
        fail(i + 1, `${COLUMNS[k]} is "${value[k]}", not a number (decimals take a point, columns a comma).`);
    if (!Number.isSafeInteger(numbers[1]!) || numbers[1]! < 0)
      fail(i + 1, `frame is ${value[1]}; frames are whole numbers from 0.`);
    const name = unguarded(value[0]!);
    const rows = screens.get(name) ?? [];
    const corners = [0, 1, 2, 3].map((c): Point => [numbers[3 + 2 * c]!, numbers[4 + 2 * c]!]) as unknown as Quad;
    rows.push({
      line: i + 1,
      frame: numbers[1]!,
      corners: mapQuad(back, corners),
      sigma: numbers.slice(11, 15),
      trust: numbers[15]!,
    });
    screens.set(name, rows);
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

function imported(
  name: string,
  rows: { line: number; frame: number; corners: Quad; sigma: number[]; trust: number }[],
  reference: number | undefined,
): ScreenTrack {
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
