/**
 * A table of the house's own, from a template that a person writes: text with placeholders in double braces, and a part
 * between `{{each frame}}` and `{{end}}` that stands once a frame.
 */
import { CoreError } from '../errors';
import { mapQuad } from '../geometry/quad';
import { perspectiveCentre } from '../geometry/quad';
import type { ScreenTrack, Track, TrackFrame } from '../track';
import type { Conventions } from './conventions';
import { conjugate, conventionMatrix, describe, ownConventions } from './conventions';
import { timecodeAfter } from './timecode';
import { referencePin } from './track-json';

export interface TemplateOptions {
  readonly conventions?: Conventions;
  /** of the plate's first frame */
  readonly timecode?: string | null;
}

const CORNERS = ['tl', 'tr', 'br', 'bl'];
/** Decimals of a number where none are asked for. */
const DIGITS = 6;

/** What may stand in braces, with what it becomes: shown beside the editor. */
export const PLACEHOLDERS: readonly (readonly [string, string])[] = [
  ['plate', 'name of the plate'],
  ['width', 'of the coordinates, px'],
  ['height', 'of the coordinates, px'],
  ['rate', 'frames a second'],
  ['first', 'label of the first frame'],
  ['count', 'frames of the plate'],
  ['screen', 'name of the Screen'],
  ['coordinates', 'the convention, in words'],
  ['frame', 'counted from 0'],
  ['label', 'as the shot numbers it'],
  ['timecode', 'of the frame'],
  ['index', 'counted from 0 within the table'],
  ['trust', '0 to 1'],
  ...CORNERS.flatMap((c): [string, string][] => [
    [`${c}.x`, `${c.toUpperCase()}, across`],
    [`${c}.y`, `${c.toUpperCase()}, down`],
  ]),
  ['h11 ... h33', 'entries of the homography'],
];

type Values = Readonly<Record<string, string>>;

/** A number with as many digits as are asked for: `{{tl.x:3}}`. */
function filled(text: string, values: Values, line: number): string {
  return text.replace(/\{\{\s*([\w.]+)\s*(?::\s*(\d{1,2}))?\s*\}\}/g, (_, key: string, digits: string | undefined) => {
    const v = values[key];
    if (v === undefined)
      throw new CoreError(
        'invalid',
        `Line ${line + 1 + text.slice(0, text.indexOf(`{{${key}`)).split('\n').length - 1}: {{${key}}} is not known; use one of ${Object.keys(values).slice(0, 40).join(', ')}.`,
      );
    return digits !== undefined && v !== '' && Number.isFinite(Number(v)) ? Number(v).toFixed(Number(digits)) : v;
  });
}

/** What all frames of a table share. */
interface Rows {
  readonly screen: ScreenTrack;
  readonly plate: Track['plate'];
  /** px of the plate to the table's coordinates */
  readonly m: readonly number[];
  /** of frame 0; null where the plate has none */
  readonly timecode: string | null;
}

function frameValues(f: TrackFrame, i: number, { screen, plate, m, timecode }: Rows): Values {
  const q = mapQuad(m, f.corners);
  const h = conjugate(f.homography, m, perspectiveCentre(referencePin(screen)));
  const number = (v: number): string => String(Number(v.toFixed(DIGITS)));
  return {
    frame: String(f.frame),
    label: String(f.frame + plate.firstFrame),
    index: String(i),
    trust: number(f.trust),
    timecode: timecode === null ? '' : (timecodeAfter(timecode, f.frame, plate.frameRate) ?? ''),
    ...Object.fromEntries(
      CORNERS.flatMap((name, k) => [
        [`${name}.x`, number(q[k]![0])],
        [`${name}.y`, number(q[k]![1])],
      ]),
    ),
    ...Object.fromEntries(
      h.map((v, k) => [`h${Math.floor(k / 3) + 1}${(k % 3) + 1}`, String(Number(v.toPrecision(12)))]),
    ),
  };
}

/** @throws CoreError `invalid` with the line, for a placeholder that is not known or an {{each}} without its {{end}} */
export function fillTemplate(template: string, track: Track, screen: ScreenTrack, o: TemplateOptions = {}): string {
  const { plate } = track;
  const c = o.conventions ?? ownConventions(plate.width, plate.height);
  const m = conventionMatrix(c, plate.width, plate.height);
  const rows: Rows = { screen, plate, m, timecode: o.timecode ?? null };
  const parts = template.split(/\{\{\s*each frame\s*\}\}\n?/);
  const common: Values = {
    plate: plate.name,
    width: String(c.size[0]),
    height: String(c.size[1]),
    rate: String(plate.frameRate[0] / plate.frameRate[1]),
    first: String(plate.firstFrame),
    count: String(plate.frameCount),
    screen: screen.name,
    coordinates: describe(c),
  };
  let line = 0;
  const out = parts.map((part, k) => {
    const from = line;
    line += part.split('\n').length - 1 + (k < parts.length - 1 ? 1 : 0);
    if (k === 0) {
      if (/\{\{\s*end\s*\}\}/.test(part))
        throw new CoreError('invalid', 'An {{end}} stands without its {{each frame}}.');
      return filled(part, common, from);
    }
    const cut = /\{\{\s*end\s*\}\}\n?/.exec(part);
    if (!cut) throw new CoreError('invalid', `The {{each frame}} of line ${from} has no {{end}}.`);
    const body = part.slice(0, cut.index);
    return (
      screen.frames.map((f, i) => filled(body, { ...common, ...frameValues(f, i, rows) }, from)).join('') +
      filled(part.slice(cut.index + cut[0].length), common, from)
    );
  });
  return out.join('');
}
