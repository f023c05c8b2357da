/**
 * `npm run bench:camera`: the rooms of the demo's generator, 960x540, each with its exact camera; what `yarlop camera`
 * finds of it, and what a track of the dark Screen in the room is with and without it. Options: --rooms NAMES, --width W,
 * --folder F (clips are kept there), --tracks (also follows the Screen).
 */
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { errorOver } from '@yarlop/core/camera/camera-report';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import type { FileView } from '@yarlop/core/camera/file-views';
import { seenAt, viewsOfFile } from '@yarlop/core/camera/file-views';
import { rayOf, triangulate } from '@yarlop/core/camera/triangulation';
import { halfDiagonal, placeOf } from '@yarlop/core/camera/view-model';
import type { TrackFile } from '@yarlop/core/formats/track-json';
import { distance } from '@yarlop/core/geometry/point';
import type { Quad } from '@yarlop/core/geometry/quad';
import { quantile } from '@yarlop/core/statistics';

/** Clips are kept here. */
const FOLDER = '.cache/rooms';
const ROOMS = ['handheld', 'dolly', 'arc', 'zoom', 'tripod', 'jitter', 'flat', 'covered', 'long'];

interface Truth {
  readonly width: number;
  readonly corners: readonly Quad[];
}

interface TrueFrames {
  readonly frames: readonly { readonly focal: number }[];
}

const json = <T>(path: string): T => JSON.parse(readFileSync(path, 'utf8')) as T;

/** Runs a program of the build. @returns its exit code and seconds */
function run(args: readonly string[]): Promise<{ code: number | null; seconds: number }> {
  const begin = performance.now();
  return new Promise((done) => {
    spawn('node', [...args], { stdio: ['ignore', 'ignore', 'ignore'] }).on('close', (code) =>
      done({ code, seconds: (performance.now() - begin) / 1000 }),
    );
  });
}

/**
 * How far the true corners are from where the scene has them, px at 1920 wide: each corner is placed once by all frames,
 * a turning camera's by the middle one.
 */
function cornersByScene(file: CameraFile, truth: Truth): number[] {
  const hd = halfDiagonal(file.plate);
  const views = [...viewsOfFile(file)];
  const { width, height } = file.plate;
  const sight = (frame: number, v: FileView, k: number): Parameters<typeof rayOf>[0] => {
    const [x, y] = truth.corners[frame]![k]!;
    return { ...v, x: (x - width / 2) / hd, y: (y - height / 2) / hd };
  };
  return [0, 1, 2, 3].flatMap((k) => {
    const placed =
      file.kind === 'tripod' ? onRay(views, k, sight) : triangulate(views.map(([f, v]) => sight(f, v, k)))?.point;
    if (!placed) return [];
    return views.flatMap(([f, v]) => {
      const at = seenAt(file, v, placed);
      return at ? [(distance(at, truth.corners[f]![k]!) * 1920) / width] : [];
    });
  });
}

function onRay(
  views: readonly (readonly [number, FileView])[],
  k: number,
  sight: (frame: number, v: FileView, k: number) => Parameters<typeof rayOf>[0],
): number[] {
  const [frame, view] = views[views.length >> 1]!;
  const eye = placeOf(view.view);
  return rayOf(sight(frame, view, k)).map((d, i) => eye[i]! + d);
}

/** Whether two corners and more lie beyond the picture. */
function isHalfOutside({ plate: { width, height } }: TrackFile, corners: Quad): boolean {
  return corners.filter(([x, y]) => x < 0 || y < 0 || x > width || y > height).length >= 2;
}

/** @param outside only frames with two corners and more beyond the picture */
function trackErrors(path: string, truth: Truth, outside: boolean): number[] {
  const track = json<TrackFile>(path);
  const frames = track.screens[0]!.frames.filter((f) => !outside || isHalfOutside(track, truth.corners[f.frame]!));
  return frames.map((f) => {
    const off = f.corners.reduce((s, p, k) => s + distance(p, truth.corners[f.frame]![k]!), 0) / 4;
    return (off * 1920) / truth.width;
  });
}

const pair = (values: readonly number[]): string =>
  values.length === 0 ? '-' : `${quantile(values, 0.5).toFixed(3)} / ${quantile(values, 0.95).toFixed(3)}`;

async function tracks(at: (ending: string) => string, truth: Truth): Promise<string[]> {
  const follow = ['dist/yarlop.mjs', 'follow', at('mp4'), '--screen', at('screen.json'), '--out'];
  await run([...follow, at('own.json')]);
  await run([...follow, at('with.json'), '--camera', at('camera.json')]);
  const cell = (name: string, outside: boolean): string => {
    const errors = trackErrors(at(name), truth, outside);
    return errors.length > 0 ? `${pair(errors)} (${errors.length})` : '-';
  };
  return [cell('own.json', false), cell('with.json', false), cell('own.json', true), cell('with.json', true)];
}

async function room(name: string, folder: string, width: number, follows: boolean): Promise<string> {
  const shot = `room-${name}`;
  const at = (ending: string): string => join(folder, `${shot}.${ending}`);
  if (!existsSync(at('mp4')))
    await run(['dist/demo-planes.mjs', '--shot', shot, '--width', String(width), '--out', folder, '--least', '5']);
  const truth = json<Truth>(at('truth.json'));
  const exact = json<TrueFrames>(at('camera-truth.json'));
  const { seconds } = await run(['dist/yarlop.mjs', 'camera', at('mp4'), '--out', at('camera.json')]);
  const file = json<CameraFile>(at('camera.json'));
  const focal = file.frames.map((f) => Math.abs(f.focal / exact.frames[f.frame]!.focal - 1));
  const rms = errorOver(file.frames);
  const cells = [
    name,
    file.kind,
    `${file.frames.length} / ${exact.frames.length}`,
    String(file.points.length),
    rms.toFixed(2),
    `${(100 * Math.max(0, ...focal)).toFixed(2)} %`,
    pair(cornersByScene(file, truth)),
    seconds.toFixed(1),
    ...(follows ? await tracks(at, truth) : []),
  ];
  return `| ${cells.join(' | ')} |`;
}

const { values } = parseArgs({
  options: {
    rooms: { type: 'string', default: ROOMS.join(',') },
    width: { type: 'string', default: '960' },
    folder: { type: 'string', default: FOLDER },
    tracks: { type: 'boolean', default: false },
  },
});
mkdirSync(values.folder, { recursive: true });
const heads = ['room', 'told', 'frames', 'points', 'rms, px', 'focal length off by', 'corners by the scene', 's'];
if (values.tracks)
  heads.push('followed (frames)', 'with the scene (frames)', 'followed, half outside', 'with the scene, half outside');
console.log(`| ${heads.join(' | ')} |\n|${heads.map(() => ' --- ').join('|')}|`);
for (const name of values.rooms.split(','))
  console.log(await room(name, values.folder, Number(values.width), values.tracks));
