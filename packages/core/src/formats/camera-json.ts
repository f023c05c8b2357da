/** The camera of a scene as JSON, as the contract has it (`docs/formats/camera.md`). */
import type { CameraFile } from '../camera/camera-file';

/** Digits that a number is told by: enough for a thousandth of a px. */
const DIGITS = 9;

const short = (_key: string, value: unknown): unknown =>
  typeof value === 'number' && !Number.isInteger(value) ? Number(value.toPrecision(DIGITS)) : value;

/** One frame and one point a line, so that a text comparison shows them. */
export function writeCameraJson(file: CameraFile): string {
  const { frames, points, ...head } = file;
  const top = JSON.stringify(head, short).slice(0, -1);
  const lines = (all: readonly unknown[]): string => all.map((v) => `    ${JSON.stringify(v, short)}`).join(',\n');
  return `${top},\n  "frames": [\n${lines(frames)}\n  ],\n  "points": [\n${lines(points)}\n  ] }\n`;
}
