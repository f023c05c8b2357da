import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Conventions } from '../src/formats/conventions';
import { conjugate, conventionMatrix, describe as say } from '../src/formats/conventions';
import { readCsv, writeCsv } from '../src/formats/csv';
import type { TrackFile } from '../src/formats/track-json';
import { fromTrackFile, toTrackFile, writeTrackJson } from '../src/formats/track-json';
import { mapPoint } from '../src/geometry/homography';
import { perspectiveCentre } from '../src/geometry/quad';
import { PIN, conventions, track } from './builders/small-track';

describe('conventions', () => {
  it.each<[Partial<Conventions>, [number, number]]>([
    [{}, [160, 90]],
    [{ origin: 'bottom-left' }, [160, 270]],
    [{ origin: 'centre' }, [-160, -90]],
    [{ pixelOrigin: 'centre' }, [159.5, 89.5]],
    [{ origin: 'bottom-left', pixelOrigin: 'centre' }, [159.5, 269.5]],
    [{ units: 'normalised' }, [0.25, 0.25]],
    [{ size: [1920, 1080] }, [480, 270]],
    [
      { size: [1920, 1080], origin: 'bottom-left', pixelOrigin: 'centre', units: 'normalised' },
      [479.5 / 1920, 809.5 / 1080],
    ],
  ])("%j puts the plate's (160, 90) where it belongs, worked out by hand", (c, expected) => {
    const m = conventionMatrix(
      { origin: 'top-left', units: 'pixels', pixelOrigin: 'corner', size: [640, 360], ...c },
      640,
      360,
    );
    const p = mapPoint(m, [160, 90]);
    expect(p[0]).toBeCloseTo(expected[0], 12);
    expect(p[1]).toBeCloseTo(expected[1], 12);
  });
  it('conjugate homographies so that they map converted points to converted points', () => {
    fc.assert(
      fc.property(conventions, (c) => {
        const m = conventionMatrix(c, 640, 360);
        const f = track().screens[0]!.frames[3]!;
        const h = conjugate(f.homography, m, perspectiveCentre(PIN));
        const a = mapPoint(h, mapPoint(m, PIN[1]));
        const b = mapPoint(m, f.corners[1]);
        expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1e-8 * Math.max(...c.size));
      }),
    );
  });
});

describe('corner data as CSV', () => {
  it('written, read and written again gives the same bytes, in every convention', () => {
    fc.assert(
      fc.property(conventions, (c) => {
        const once = writeCsv(track(), c);
        expect(writeCsv(readCsv(once), c)).toBe(once);
      }),
    );
  });
  it('keeps coordinates to 1e-6 px and names with commas and quotes', () => {
    fc.assert(
      fc.property(conventions, (c) => {
        const t = track();
        const back = readCsv(writeCsv(t, c));
        expect(back.screens[0]!.name).toBe(t.screens[0]!.name);
        back.screens[0]!.frames.forEach((f, i) =>
          f.corners.forEach((p, k) => {
            const q = t.screens[0]!.frames[i]!.corners[k]!;
            expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-6);
          }),
        );
      }),
    );
  });
  it("says its convention in words and labels frames from the shot's first", () => {
    const text = writeCsv(track(), { origin: 'bottom-left', units: 'pixels', pixelOrigin: 'centre', size: [640, 360] });
    expect(text).toContain('origin bottom-left, x right, y up; whole numbers lie on pixel centres');
    expect(text).toMatch(/",2,1003,/);
    expect(say({ origin: 'centre', units: 'normalised', pixelOrigin: 'corner', size: [8, 8] })).toContain(
      'centre of the picture',
    );
  });
  it('reads files with a byte-order mark and Windows line ends', () => {
    expect(readCsv(`\uFEFF${writeCsv(track()).replaceAll('\n', '\r\n')}`).screens[0]!.frames).toHaveLength(4);
  });
  it.each<[string, (t: string) => string, RegExp]>([
    [
      'a missing frame',
      (t) =>
        t
          .split('\n')
          .filter((l) => !l.includes(',2,1003,'))
          .join('\n'),
      /Line 10: frames 2 to 2 .* missing/,
    ],
    ['a doubled frame', (t) => t.replace(',2,1003,', ',1,1003,'), /frame 1 of .* stands twice/],
    ['decimal commas', (t) => t.replace('100.125', '"100,125"'), /Line 8: tl_x is "100,125", not a number/],
    [
      'crossed sides',
      (t) => t.replace('100.125,50.5,420.7,60.1', '420.7,60.1,100.125,50.5'),
      /Line 8: .*(cross|order)/,
    ],
    ['a missing column', (t) => t.replace(',tl_x,', ',left,'), /column tl_x/],
    ['no header', () => 'frame,x,y\n0,1,2\n', /was not written as Yarlop corner data/],
    ['no rows', (t) => t.split('\n').slice(0, 7).join('\n'), /no rows/],
    ['a damaged header', (t) => t.replace('"origin":"top-left"', '"origin":"sideways"'), /Line 4: the conventions/],
  ])('with %s is refused, with the line', (_, spoil, message) => {
    expect(() => readCsv(spoil(writeCsv(track())))).toThrow(message);
  });
});

describe('the track as JSON', () => {
  it('is read back as it was, in every convention', () => {
    fc.assert(
      fc.property(conventions, (c) => {
        const t = track();
        const file = JSON.parse(writeTrackJson(toTrackFile(t, c, say))) as TrackFile;
        const back = fromTrackFile(file);
        back.screens[0]!.frames.forEach((f, i) =>
          f.corners.forEach((p, k) => {
            const q = t.screens[0]!.frames[i]!.corners[k]!;
            expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeLessThan(1e-6);
          }),
        );
      }),
    );
  });
  it("in Yarlop's own coordinates is exact and carries the contract's sentence", () => {
    const t = track();
    const file = JSON.parse(writeTrackJson(toTrackFile(t))) as TrackFile;
    expect(file.coordinates).toBe(
      'pixels; origin at the top-left corner of the top-left pixel; x right, y down; corners TL, TR, BR, BL',
    );
    expect(file.screens).toEqual(JSON.parse(JSON.stringify(t.screens)));
    expect(file).not.toHaveProperty('conventions');
  });
});
