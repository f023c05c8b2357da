import { describe, expect, it } from 'vitest';
import { followedOn, shapeAt } from '../src/follow/outline/outlines';
import { findRails } from '../src/follow/edges/rails';
import { Follower } from '../src/follow/follower';
import type { Point } from '../src/geometry/point';
import { insidePolygon } from '../src/geometry/polygon';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import { buildPyramid } from '../src/image/pyramid';
import type { SceneOptions } from './builders/scene';
import { moved, renderScene } from './builders/scene';

const PIN: Quad = [
  [120, 90],
  [300, 90],
  [300, 210],
  [120, 210],
];
const box = (x0: number, y0: number, x1: number, y1: number): Point[] => [
  [x0, y0],
  [x1, y0],
  [x1, y1],
  [x0, y1],
];
/** Dark glass on a light table. */
const scene: SceneOptions = {
  width: 420,
  height: 300,
  pin: PIN,
  homography: (n) => moved(PIN, { x: 2 * n }),
  texture: () => 20,
  background: () => 150,
};
/** Over half of the upper side and beyond it. */
const OVER_TOP = box(115, 70, 215, 110);
const sitesOf = (ignore: readonly (readonly Point[])[]): readonly Point[] =>
  findRails(PIN, buildPyramid(renderScene(scene, 0), 1)[0]!, ignore).flatMap((r) => [...r.sites]);

/** Sites of edges that a frame was followed by; see `cell-map.ts`. */
const sitesSeen = (cells: readonly number[]): Point[] =>
  Array.from({ length: cells.length / 4 }, (_, i): Point => [cells[4 * i]!, cells[4 * i + 1]!]);

describe('sites of edges', () => {
  it('lie on all four sides of dark glass', () => {
    const rails = findRails(PIN, buildPyramid(renderScene(scene, 0), 1)[0]!, []);
    expect(new Set(rails.map((r) => r.side))).toEqual(new Set([0, 1, 2, 3]));
    expect(sitesOf([]).filter((p) => insidePolygon(p, OVER_TOP)).length).toBeGreaterThan(5);
  });
  it('never lie inside an ignore patch, and go on beside it', () => {
    const left = sitesOf([OVER_TOP]);
    expect(left.filter((p) => insidePolygon(p, OVER_TOP))).toEqual([]);
    expect(left.filter(([x, y]) => x > 215 && y < 110).length).toBeGreaterThan(5);
  });
});

describe('an ignore patch that changes its shape', () => {
  it('leaves out edges and picture inside itself on each frame; a follow patch narrows the picture alone', () => {
    const patches = [
      { kind: 'follow' as const, points: box(100, 80, 200, 200) },
      {
        kind: 'ignore' as const,
        points: box(100, 80, 140, 120),
        keys: [{ frame: 10, points: box(160, 80, 200, 120) }],
      },
    ];
    const on = followedOn({ patches }, [10, 0], (p) => p)!;
    expect([on.edges([110, 100]), on.picture([110, 100])]).toEqual([true, true]);
    expect([on.edges([180, 100]), on.picture([180, 100])]).toEqual([false, false]);
    expect([on.edges([290, 100]), on.picture([290, 100])]).toEqual([true, false]);
  });
  it('passes in front with a run of its own: what lies under it, as the plane is there, is left out on its frames', () => {
    const passing = [[{ frame: 10, points: box(100, 80, 140, 120) }]];
    // The plane has moved by 60 px to the right since the reference.
    const toPlane = ([x, y]: Point): Point => [x - 60, y];
    const on = followedOn({ patches: [], passing }, [10, 0], toPlane)!;
    expect([on.picture([60, 100]), on.edges([60, 100])]).toEqual([false, false]);
    // Its blurred rim too, and no more than that.
    expect([on.picture([83, 100]), on.picture([90, 100]), on.picture([120, 100])]).toEqual([false, true, true]);
    expect(followedOn({ patches: [], passing }, [11, 0], toPlane)).toBeNull();
  });
  it('keeps what crosses an edge from pulling it', () => {
    // A dark arm stays in the picture while the glass moves on under it: its own edge runs along the upper side.
    const arm = box(150, 60, 205, 84);
    const o: SceneOptions = { ...scene, homography: (n) => moved(PIN, { y: -1.5 * n }), covers: () => [arm] };
    const ignoring = {
      kind: 'ignore' as const,
      points: box(145, 55, 210, 100),
      keys: [{ frame: 6, points: box(145, 60, 210, 109) }],
    };
    const follower = new Follower(
      { pin: PIN, patches: [ignoring], motion: 'perspective', density: 'usual', evidence: ['edges'] },
      0,
      renderScene(o, 0),
    );
    for (let n = 1; n <= 6; n++) {
      const found = follower.step(n, renderScene(o, n));
      expect(found.homography).not.toBeNull();
      expect(sitesSeen(found.cells!).filter((p) => insidePolygon(p, shapeAt(ignoring, n, 0)))).toEqual([]);
      expect(sitesSeen(found.cells!).length).toBeGreaterThan(40);
      const corners = mapQuad(found.homography!, PIN);
      mapQuad(o.homography(n), PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - corners[i]![0], p[1] - corners[i]![1])).toBeLessThan(0.6),
      );
    }
  });
});

describe('dark glass in a thin dark bezel before a bright rim', () => {
  /** px of the bezel, which shows no edge of its own beside dark glass, and of the rim around it. */
  const [BEZEL, RIM] = [2, 3];
  /** How far a place lies beyond the glass, px. */
  const beyond = (x: number, y: number): number => Math.max(120 - x, x - 300, 90 - y, y - 210);
  const levelAt = (glass: number, d: number): number => {
    if (d < 0) return glass;
    if (d < BEZEL) return 14;
    return d < BEZEL + RIM ? 190 : 60;
  };
  // Soft over two px, as lens and sensor make it.
  const SOFT = Array.from({ length: 21 }, (_, i) => (i - 10) / 10);
  const device =
    (glass: number) =>
    (x: number, y: number): number =>
      SOFT.reduce((sum, o) => sum + levelAt(glass, beyond(x, y) + o), 0) / SOFT.length;
  const scene: SceneOptions = {
    width: 420,
    height: 300,
    pin: box(114, 84, 306, 216) as unknown as Quad,
    homography: (n) => moved(PIN, { x: 0.4 * n }),
    background: () => 60,
    noise: 1,
  };
  const dark = renderScene({ ...scene, texture: device(20) }, 0);

  it('ends at the pin, as far as its looks go', () => {
    const rails = findRails(PIN, buildPyramid(dark, 1)[0]!, []).filter((r) => r.inner);
    expect(new Set(rails.map((r) => r.side))).toEqual(new Set([0, 1, 2, 3]));
    for (const r of rails) expect(Math.abs(r.offset + r.look.glass)).toBeLessThan(0.3);
  });
  it('is followed to a fifth of a px when it lights up', () => {
    const setup = { pin: PIN, patches: [], motion: 'perspective' as const, density: 'usual' as const };
    const follower = new Follower({ ...setup, evidence: ['edges'] }, 0, dark);
    for (let n = 1; n <= 8; n++) {
      const glass = n < 3 ? 20 : 170;
      const found = follower.step(n, renderScene({ ...scene, texture: device(glass) }, n));
      const corners = mapQuad(found.homography!, PIN);
      mapQuad(scene.homography(n), PIN).forEach((p, i) =>
        expect(Math.hypot(p[0] - corners[i]![0], p[1] - corners[i]![1])).toBeLessThan(0.2),
      );
    }
  });
});
