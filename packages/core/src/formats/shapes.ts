/**
 * Outlines frame by frame: each Screen's pin and the outlines that ride on it, as JSON and as an animated SVG (SMIL,
 * one discrete value a frame).
 */
import { mapPoint } from '../geometry/homography';
import type { Outline } from '../follow/outline/outlines';
import { polygonAt } from '../follow/outline/outlines';
import type { Point } from '../geometry/point';
import type { ScreenTrack, Track } from '../track';
import type { Conventions } from './conventions';
import { conventionMatrix, describe, ownConventions } from './conventions';
import { escaped, number } from './text';

/** Outlines of a Screen beside its pin. */
export interface NamedOutline {
  readonly name: string;
  readonly outline: Outline;
}

export type OutlinesByScreen = ReadonlyMap<string, readonly NamedOutline[]>;

interface Shape {
  readonly screen: string;
  readonly name: string;
  readonly frames: readonly { readonly frame: number; readonly points: readonly Point[] }[];
}

function shapesOf(s: ScreenTrack, outlines: readonly NamedOutline[], to: readonly number[]): Shape[] {
  const pin: Shape = {
    screen: s.name,
    name: 'pin',
    frames: s.frames.map((f) => ({ frame: f.frame, points: f.corners.map((p) => mapPoint(to, p)) })),
  };
  return [
    pin,
    ...outlines.map(({ name, outline }): Shape => ({
      screen: s.name,
      name,
      frames: s.frames.map((f) => ({
        frame: f.frame,
        points: polygonAt(outline, f.frame, s.referenceFrame).map((p) => mapPoint(to, mapPoint(f.homography, p))),
      })),
    })),
  ];
}

const all = (track: Track, outlines: OutlinesByScreen, c: Conventions): Shape[] =>
  track.screens.flatMap((s) =>
    shapesOf(s, outlines.get(s.name) ?? [], conventionMatrix(c, track.plate.width, track.plate.height)),
  );

/** Outlines frame by frame as JSON (RFC 8259), px. */
export function writeShapesJson(
  track: Track,
  outlines: OutlinesByScreen = new Map(),
  conventions?: Conventions,
): string {
  const { plate } = track;
  const c = conventions ?? ownConventions(plate.width, plate.height);
  const head = JSON.stringify(
    { format: 'yarlop-shapes', version: 1, plate, coordinates: describe(c), conventions: c },
    null,
    2,
  );
  const lines = all(track, outlines, c).map(
    ({ frames, ...rest }) =>
      `    ${JSON.stringify(rest).slice(0, -1)}, "frames": [\n${frames.map((f) => `      ${JSON.stringify({ frame: f.frame, label: f.frame + plate.firstFrame, points: f.points.map((p) => p.map((v) => Number(number(v)))) })}`).join(',\n')}\n    ] }`,
  );
  return `${head.slice(0, -2)},\n  "shapes": [\n${lines.join(',\n')}\n  ]\n}\n`;
}

/** SVG keeps its own coordinates (top-left, y down, pixel corners): only the size is taken from the conventions. */
export function writeShapesSvg(
  track: Track,
  outlines: OutlinesByScreen = new Map(),
  size?: readonly [number, number],
): string {
  const { plate } = track;
  const [w, h] = size ?? [plate.width, plate.height];
  const c: Conventions = { ...ownConventions(plate.width, plate.height), size: [w, h] };
  const seconds = (plate.frameCount * plate.frameRate[1]) / plate.frameRate[0];
  const text = (points: readonly Point[]): string => points.map((p) => p.map((v) => v.toFixed(3)).join(',')).join(' ');
  const shapes = all(track, outlines, c)
    .filter((s) => s.frames.length > 0)
    .map((s) => {
      const first = s.frames[0]!.frame;
      const last = s.frames.at(-1)!.frame;
      const at = (n: number): string => String(Number((n / plate.frameCount).toFixed(9)));
      // A shape shows only on frames that it has; values change at a frame's beginning and hold until the next.
      const shows =
        first > 0 || last < plate.frameCount - 1
          ? `\n    <animate attributeName="visibility" calcMode="discrete" dur="${seconds}s" repeatCount="indefinite" values="hidden;visible;hidden" keyTimes="0;${at(Math.max(first, 1e-6))};${at(last + 1)}"/>`
          : '';
      const values = first === 0 ? s.frames : [{ frame: 0, points: s.frames[0]!.points }, ...s.frames];
      return `  <polygon id="${escaped(`${s.screen}-${s.name}`.replace(/[^\p{L}\p{N}]+/gu, '-'))}" points="${text(s.frames[0]!.points)}" fill="none" stroke="currentColor" vector-effect="non-scaling-stroke">\n    <title>${escaped(`${s.screen}: ${s.name}`)}</title>${shows}\n    <animate attributeName="points" calcMode="discrete" dur="${seconds}s" repeatCount="indefinite" keyTimes="${values.map((f) => at(f.frame)).join(';')}" values="${values.map((f) => text(f.points)).join(';')}"/>\n  </polygon>`;
    });
  return `<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${w} ${h}" width="${w}" height="${h}">\n  <desc>${escaped(`Outlines per frame of ${plate.name}: ${plate.frameCount} frames at ${plate.frameRate.join('/')} a second; pixels, origin top-left, y down.`)}</desc>\n${shapes.join('\n')}\n</svg>\n`;
}
