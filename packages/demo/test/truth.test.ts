import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { Follower } from '../../core/src/follow/follower';
import { insidePolygon } from '../../core/src/geometry/polygon';
import type { Quad } from '../../core/src/geometry/quad';
import { isConvex, mapQuad } from '../../core/src/geometry/quad';
import { openPlate, withLuma } from '../../pipeline/src/plate';
import { followSetup, parseScreen } from '../../pipeline/src/screen-file';
import type { Textures } from '../src/chart-table';
import { FRAMES, film, renderFrame, truth } from '../src/shot';

const ASSETS = 'packages/demo/assets/harbour-phone';
const stored = JSON.parse(readFileSync(`${ASSETS}.truth.json`, 'utf8')) as { width: number; corners: Quad[] };

describe('the first demo shot', () => {
  it('carries the truth that its generator gives', () => {
    const f = film(1920);
    expect(stored.corners).toHaveLength(FRAMES);
    for (const n of [0, 18, 40, FRAMES - 1])
      truth(n, f).forEach((p, i) =>
        expect(Math.hypot(p[0] - stored.corners[n]![i]![0], p[1] - stored.corners[n]![i]![1])).toBeLessThan(1e-6),
      );
    expect(stored.corners.every((q) => isConvex(q))).toBe(true);
  });
  it('shows its green card just where the truth says', () => {
    const paper = { width: 2, height: 2, data: new Float32Array(12).fill(0.5) };
    const set: Textures = { chart: paper, tableLight: paper };
    const f = film(240);
    for (const n of [5, 60]) {
      const rgb = renderFrame(n, f, set, 2);
      const q = truth(n, f) as unknown as Quad;
      let inside = 0;
      let green = 0;
      let both = 0;
      for (let y = 0; y < f.height; y++)
        for (let x = 0; x < f.width; x++) {
          const k = (y * f.width + x) * 3;
          const isGreen = rgb[k + 1]! > 1.25 * rgb[k]! && rgb[k + 1]! > 1.25 * rgb[k + 2]! && rgb[k + 1]! > 90;
          const isIn = insidePolygon([x + 0.5, y + 0.5], q);
          inside += Number(isIn);
          green += Number(isGreen);
          both += Number(isGreen && isIn);
        }
      expect(both / inside).toBeGreaterThan(0.85);
      expect(both / green).toBeGreaterThan(0.85);
    }
  });
  it('is followed to a fraction of a pixel with the defaults, from its committed clip', async () => {
    const screen = parseScreen(JSON.parse(readFileSync(`${ASSETS}.screen.json`, 'utf8')));
    const plate = await openPlate(`${ASSETS}.mp4`);
    const errors: number[] = [];
    await withLuma(
      plate,
      () => false,
      async (luma) => {
        expect(luma.frameCount).toBe(FRAMES);
        const pin = stored.corners[screen.referenceFrame]!;
        const f = new Follower(
          { ...followSetup(screen, luma), pin },
          screen.referenceFrame,
          await luma.read(screen.referenceFrame),
        );
        for (let n = screen.referenceFrame + 1; n < 48; n++) {
          const r = f.step(n, await luma.read(n));
          expect(r.homography).not.toBeNull();
          errors.push(
            mapQuad(r.homography!, pin).reduce(
              (s, p, i) => s + Math.hypot(p[0] - stored.corners[n]![i]![0], p[1] - stored.corners[n]![i]![1]) / 4,
              0,
            ),
          );
        }
      },
    );
    errors.sort((a, b) => a - b);
    expect(errors[errors.length >> 1]).toBeLessThan(0.3);
    expect(errors.at(-1)).toBeLessThan(0.8);
  });
});
