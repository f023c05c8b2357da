/** The scene's camera as evidence: a Screen that stands in an invented room whose camera is known exactly. */
import { describe, expect, it } from 'vitest';
import { quaternionOf } from '../src/camera/camera-report';
import { seenAt, viewsOfFile } from '../src/camera/file-views';
import { withScene } from '../src/camera/scene-evidence';
import { movedView, placeOf, viewOfNothing } from '../src/camera/view-model';
import type { CameraFile, CameraFileFrame } from '../src/camera/camera-file';
import { CAMERA_COORDINATES } from '../src/camera/camera-file';
import { writeCameraJson } from '../src/formats/camera-json';
import { mapQuad } from '../src/geometry/quad';
import type { Quad } from '../src/geometry/quad';
import type { ScreenTrack, TrackFrame } from '../src/track';
import { random } from './builders/scene';

const FRAMES = 30;
const REFERENCE = 5;
/** y up, in front of the camera, leaning. */
const SCREEN = [
  [-0.8, 0.5, -4],
  [0.9, 0.6, -4.6],
  [0.92, -0.5, -4.5],
  [-0.78, -0.6, -3.9],
].map(([x, y, z]) => [x!, -y!, -z!]);

function cameraFile(kind: 'moving' | 'tripod' = 'moving', rolls = false): CameraFile {
  const frames = Array.from({ length: FRAMES }, (_, f): CameraFileFrame => {
    const v = movedView(viewOfNothing(), [0.004 * f, -0.006 * f, 0.002 * f, kind === 'moving' ? -0.05 * f : 0, 0, 0]);
    const sign = [1, -1, -1];
    const m = Array.from(
      { length: 9 },
      (_, i) => sign[Math.floor(i / 3)]! * sign[i % 3]! * v[3 * (i % 3) + Math.floor(i / 3)]!,
    );
    const [x, y, z] = placeOf(v);
    return {
      frame: f,
      position: [x, -y, -z],
      rotation: quaternionOf(m),
      focal: 1500,
      sigma: { position: 0.001, rotation: 0.0001 },
      error: 0.1,
      points: 100,
      ...(rolls ? { rowTurn: [0, 0.004, 0] as const } : {}),
    };
  });
  return {
    format: 'yarlop-camera',
    version: 1,
    plate: { name: 'room.mp4', width: 1280, height: 720, frameRate: [24, 1], firstFrame: 0, frameCount: FRAMES },
    kind,
    coordinates: CAMERA_COORDINATES,
    lens: { principal: [640, 360], radial: [-0.05, 0.01], by: 'half diagonal' },
    frames,
    points: [],
    planes: [],
    stopped: null,
  };
}

function truthOf(file: CameraFile, frame: number, shift = 0): Quad {
  const v = viewsOfFile(file).get(frame)!;
  return SCREEN.map(([x, y, z]) => seenAt(file, v, [x! + shift, y!, z!])!) as unknown as Quad;
}

/** What a follower made of it: noise of 0.3 px, known as such. */
function followed(
  file: CameraFile,
  off: (frame: number) => Partial<TrackFrame> & { shift?: number } = () => ({}),
): ScreenTrack {
  const dice = random(3);
  const frames = Array.from({ length: FRAMES }, (_, frame): TrackFrame => {
    const { shift = 0, ...more } = off(frame);
    const corners = truthOf(file, frame, shift).map((p) =>
      p.map((v) => (frame === REFERENCE ? v : v + 1.04 * (dice() - 0.5))),
    ) as unknown as Quad;
    return {
      frame,
      corners,
      homography: [1, 0, 0, 0, 1, 0, 0, 0, 1],
      sigma: [0.3, 0.3, 0.3, 0.3],
      trust: 0.9,
      evidence: { edges: 1 },
      ...more,
    };
  });
  return { name: 'laptop', referenceFrame: REFERENCE, stopped: null, frames };
}

const worst = (track: ScreenTrack, file: CameraFile): number =>
  Math.max(
    ...track.frames.map((f) => {
      const truth = truthOf(file, f.frame);
      return f.corners.reduce((s, p, k) => s + Math.hypot(p[0] - truth[k]![0], p[1] - truth[k]![1]), 0) / 4;
    }),
  );
const RANGE = [0, FRAMES - 1] as const;

describe('a Screen that stands in the scene', () => {
  it.each([
    ['moving', false],
    ['moving', true],
    ['tripod', false],
  ] as const)(
    'of a %s camera (rolling: %s) is better with the scene, and its homographies hold at its corners',
    (kind, rolls) => {
      const file = cameraFile(kind, rolls);
      const track = followed(file);
      const { track: joined, note, corners } = withScene(track, file, { range: RANGE });
      expect(note).toBeNull();
      expect(worst(track, file)).toBeGreaterThan(0.35);
      expect(worst(joined, file)).toBeLessThan(0.2);
      if (kind === 'moving')
        corners!.forEach((c, k) => c.forEach((v, i) => expect(v).toBeCloseTo([1, -1, -1][i]! * SCREEN[k]![i]!, 1)));
      const pin = joined.frames[REFERENCE]!.corners;
      expect(pin).toEqual(track.frames[REFERENCE]!.corners);
      for (const f of joined.frames) {
        const shares = Object.values(f.evidence).reduce((s, v) => s + v, 0);
        expect(shares).toBeCloseTo(1, 9);
        if (f.frame === REFERENCE) continue;
        mapQuad(f.homography, pin).forEach((p, k) => p.forEach((v, i) => expect(v).toBeCloseTo(f.corners[k]![i]!, 6)));
        expect(f.evidence['scene']).toBeGreaterThan(0.3);
        expect(f.sigma[0]).toBeLessThan(0.3);
      }
    },
  );

  it('is carried over frames that were bridged, and on beyond where it was lost', () => {
    const file = cameraFile();
    const whole = followed(file, (f) =>
      f >= 12 && f < 18 ? { evidence: {}, trust: 0, sigma: [9, 9, 9, 9], shift: 0.2 } : {},
    );
    const lost: ScreenTrack = {
      ...whole,
      frames: whole.frames.slice(0, 24),
      stopped: [{ frame: 24, direction: 'forwards', reason: 'gone' }],
    };
    const { track } = withScene(lost, file, { range: RANGE });
    expect(track.stopped).toBeNull();
    expect(track.frames).toHaveLength(FRAMES);
    expect(worst(track, file)).toBeLessThan(0.25);
    expect(track.frames[14]!.evidence).toEqual({ scene: 1 });
    expect(track.frames[28]!.evidence).toEqual({ scene: 1 });
  });

  it('that one side misleads for a while is set right', () => {
    const file = cameraFile();
    const track = followed(file, (f) => {
      if (f < 10 || f > 20) return {};
      const corners = truthOf(file, f).map((p, k) => (k < 2 ? [p[0], p[1] - 7] : p)) as unknown as Quad;
      return { corners };
    });
    const { track: joined, note } = withScene(track, file, { range: RANGE });
    expect(note).toBeNull();
    expect(worst(joined, file)).toBeLessThan(0.3);
  });

  it('that is moved in the middle keeps its own evidence from there on', () => {
    const file = cameraFile();
    const track = followed(file, (f) => (f >= 18 ? { shift: 0.3 } : {}));
    const { track: joined, note } = withScene(track, file, { range: RANGE });
    expect(note).toContain('frames 18 to 29');
    expect(joined.frames.slice(18)).toEqual(track.frames.slice(18));
    expect(joined.frames[10]!.evidence['scene']).toBeGreaterThan(0.3);
  });

  it('that goes its own way all the time is left as it is, with the reason', () => {
    const file = cameraFile();
    const track = followed(file, (f) => ({ shift: 0.6 * Math.sin(f - REFERENCE) }));
    const { track: joined, note } = withScene(track, file, { range: RANGE });
    expect(joined).toBe(track);
    expect(note).toMatch(/does not stand still in the scene|does not tell where/);
  });

  it('whose reference frame the camera lacks is left as it is', () => {
    const file = cameraFile();
    const cut = { ...file, frames: file.frames.filter((f) => f.frame > REFERENCE) };
    expect(withScene(followed(file), cut, { range: RANGE }).note).toContain('does not reach the reference frame 5');
  });
});

describe('a camera file', () => {
  it('is JSON with a frame a line, and its views are those that were written', () => {
    const file = cameraFile('moving', true);
    const text = writeCameraJson(file);
    const again = JSON.parse(text) as CameraFile;
    expect(text.split('\n').filter((l) => l.includes('"rotation"'))).toHaveLength(FRAMES);
    expect(again.plate).toEqual(file.plate);
    const [a, b] = [viewsOfFile(file).get(7)!, viewsOfFile(again).get(7)!];
    a.view.forEach((v, i) => expect(b.view[i]).toBeCloseTo(v, 7));
  });
});
