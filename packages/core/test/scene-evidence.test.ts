/** The scene's camera as evidence: a Screen that stands in an invented room whose camera is known exactly. */
import { describe, expect, it } from 'vitest';
import { viewsOfFile } from '../src/camera/file-views';
import { joinScene, withScene } from '../src/camera/scene-evidence';
import type { CameraFile } from '../src/camera/camera-file';
import { flipped } from '../src/camera/view-model';
import { writeCameraJson } from '../src/formats/camera-json';
import { mapQuad } from '../src/geometry/quad';
import type { Quad } from '../src/geometry/quad';
import type { ScreenTrack, TrackFrame } from '../src/track';
import { FRAMES, REFERENCE, SCREEN, cameraFile, truthOf, withPoints } from './builders/camera-file';
import { random } from './builders/scene';

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

describe('a plane through points of the scene', () => {
  const ALONE = { frames: [followed(cameraFile()).frames[REFERENCE]!], referenceFrame: REFERENCE };
  const ON_PLANE = Array.from({ length: 20 }, (_, i) => 100 + i);

  it('carries a Screen of which nothing was followed, through three strays', () => {
    const file = withPoints();
    // The Screen's fourth corner lies a little beside the plane of the other three.
    const pin = truthOf(file, REFERENCE);
    const track = { ...ALONE, frames: [{ ...ALONE.frames[0]!, corners: pin }] };
    const { frames, corners } = joinScene(track, file, {
      range: RANGE,
      plane: { points: [...ON_PLANE, 120, 121, 122] },
    });
    expect(frames).toHaveLength(FRAMES);
    SCREEN.slice(0, 2).forEach((at, k) => {
      flipped(corners![k]! as [number, number, number]).forEach((v, i) => expect(v).toBeCloseTo(at[i]!, 1));
    });
    for (const f of frames) {
      const truth = truthOf(file, f.frame);
      for (const k of [0, 1, 3])
        expect(Math.hypot(f.corners[k]![0] - truth[k]![0], f.corners[k]![1] - truth[k]![1])).toBeLessThan(1.5);
    }
  });

  it('is none of two points, of points on a line, and of points that are gone', () => {
    const file = withPoints();
    const line = [0, 1, 2, 3].map((i) => ({ id: i, position: [i, 0.2, -5] as const, frames: 9, error: 0.1 }));
    for (const points of [
      [100, 101],
      [0, 1, 2, 3],
      [900, 901, 902],
    ]) {
      const { note, corners } = joinScene(
        ALONE,
        { ...file, points: [...file.points, ...line] },
        { range: RANGE, plane: { points } },
      );
      expect(corners).toBeNull();
      expect(note).toContain('no plane');
    }
  });

  it('leaves frames alone that are not to rest on it', () => {
    const { frames } = joinScene(ALONE, withPoints(), { range: RANGE, plane: { points: ON_PLANE }, on: (n) => n < 10 });
    const rests = frames.filter((f) => f.evidence['scene'] === 1).map((f) => f.frame);
    expect(rests).toEqual([0, 1, 2, 3, 4, 6, 7, 8, 9]);
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
