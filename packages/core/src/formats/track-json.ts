/** The JSON of the contract: a track with all its Screens, exact numbers, its convention spelt out. */
import { CoreError } from '../errors';
import type { Quad } from '../geometry/quad';
import { inverse } from '../geometry/matrix3';
import type { ScreenTrack, Track } from '../track';
import type { Conventions } from './conventions';
import { conventionMatrix, convertFrame, isOwn, ownConventions } from './conventions';

export const OWN_COORDINATES =
  'pixels; origin at the top-left corner of the top-left pixel; x right, y down; corners TL, TR, BR, BL';

export interface TrackFile {
  readonly format: 'yarlop-track';
  readonly version: 1;
  readonly plate: Track['plate'];
  readonly coordinates: string;
  /** only in files whose coordinates are not Yarlop's own */
  readonly conventions?: Conventions;
  readonly screens: readonly ScreenTrack[];
}

/** The pin on the reference frame. @throws CoreError when the track does not hold its reference frame */
export function referencePin(screen: ScreenTrack): Quad {
  const f = screen.frames.find((x) => x.frame === screen.referenceFrame);
  if (!f)
    throw new CoreError(
      'invalid',
      `Screen "${screen.name}" has no row for its reference frame ${screen.referenceFrame}.`,
    );
  return f.corners;
}

/** Tracks as the file that the contract describes (`docs/formats/track.md`). */
export function toTrackFile(
  track: Track,
  conventions?: Conventions,
  describeAs?: (c: Conventions) => string,
): TrackFile {
  const { width, height } = track.plate;
  if (!conventions || isOwn(conventions, width, height))
    return {
      format: 'yarlop-track',
      version: 1,
      plate: track.plate,
      coordinates: OWN_COORDINATES,
      screens: track.screens,
    };
  const m = conventionMatrix(conventions, width, height);
  const screens = track.screens.map((s) => {
    const pin = referencePin(s);
    return { ...s, frames: s.frames.map((f) => convertFrame(f, m, pin)) };
  });
  return {
    format: 'yarlop-track',
    version: 1,
    plate: track.plate,
    coordinates: describeAs?.(conventions) ?? 'see conventions',
    conventions,
    screens,
  };
}

/** The track in Yarlop's own coordinates, whatever the file was written in. */
export function fromTrackFile(file: TrackFile): Track {
  const c = file.conventions ?? ownConventions(file.plate.width, file.plate.height);
  if (!file.conventions) return { plate: file.plate, screens: file.screens };
  const m = inverse(conventionMatrix(c, file.plate.width, file.plate.height));
  return {
    plate: file.plate,
    screens: file.screens.map((s) => ({ ...s, frames: s.frames.map((f) => convertFrame(f, m, referencePin(s))) })),
  };
}

/** One frame a line, so that a text comparison of two tracks shows frames. */
export function writeTrackJson(file: TrackFile): string {
  const { screens, ...head } = file;
  const lines = screens.map((s) => {
    const { frames, ...rest } = s;
    const top = JSON.stringify(rest).slice(0, -1);
    return `    ${top}, "frames": [\n${frames.map((f) => `      ${JSON.stringify(f)}`).join(',\n')}\n    ] }`;
  });
  return `${JSON.stringify(head, null, 2).slice(0, -2)},\n  "screens": [\n${lines.join(',\n')}\n  ]\n}\n`;
}
