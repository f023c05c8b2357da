import { describe, expect, it } from 'vitest';
import { clipToRectangle, insidePolygon } from '../src/geometry/polygon';
import { signedArea } from '../src/geometry/quad';
import { estimateNoise } from '../src/image/noise';
import { buildPyramid } from '../src/image/pyramid';
import { sampleRowCubic, sampleRowLinear } from '../src/image/sample';
import { openCv } from './builders/opencv';
import { random, waves } from './builders/scene';

function picture(
  width: number,
  height: number,
  f: (x: number, y: number) => number,
): { width: number; height: number; data: Float32Array } {
  const data = new Float32Array(width * height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data[y * width + x] = f(x + 0.5, y + 0.5);
  return { width, height, data };
}

describe('a pyramid', () => {
  it('keeps a ramp a ramp: position x lies at x / 2^l on level l', () => {
    const p = buildPyramid(
      picture(128, 96, (x, y) => 2 * x + y),
      4,
    );
    for (const [l, level] of p.entries()) {
      const x = 5;
      const y = 4;
      expect(level.data[y * level.width + x]).toBeCloseTo((2 * (x + 0.5) + (y + 0.5)) * 2 ** l, 3);
    }
  });
  it("of a window equals the whole frame's inside the window", () => {
    const f = picture(160, 120, waves(3));
    const whole = buildPyramid(f, 3);
    const part = buildPyramid(f, 3, { x0: 40, y0: 30, x1: 120, y1: 100 });
    const l = part[2]!;
    const w = whole[2]!;
    const x = 8;
    const y = 7;
    expect(l.data[y * l.width + x]).toBeCloseTo(w.data[(y + l.y0) * w.width + x + l.x0]!, 4);
  });
  it('reads 16-bit pictures on the same scale as 8-bit ones', () => {
    const deep = { width: 16, height: 16, data: new Uint16Array(256).fill(65535) };
    expect(buildPyramid(deep, 1)[0]!.data[0]).toBe(255);
  });
});

describe('a pyramid against the general-purpose reference library (OpenCV, npm registry)', () => {
  const WIDTH = 256;
  const HEIGHT = 192;
  const own = picture(WIDTH, HEIGHT, waves(21, 60, 140));
  const level = buildPyramid(own, 2)[1]!;
  const inner = (f: (i: number, x: number, y: number) => number): number => {
    let worst = 0;
    for (let y = 8; y < HEIGHT / 2 - 8; y++)
      for (let x = 8; x < WIDTH / 2 - 8; x++) worst = Math.max(worst, Math.abs(f(y * (WIDTH / 2) + x, x, y)));
    return worst;
  };
  it('lies where halving by area does, to a grey step', async () => {
    const cv = await openCv();
    const out = new cv.Mat();
    cv.resize(
      cv.matFromArray(HEIGHT, WIDTH, cv.CV_32FC1, own.data),
      out,
      new cv.Size(WIDTH / 2, HEIGHT / 2),
      0,
      0,
      cv.INTER_AREA,
    );
    expect(inner((i) => level.data[i]! - out.data32F[i]!)).toBeLessThan(1);
    // Half a pixel of its own beside that, it does not.
    expect(inner((i) => level.data[i]! - (out.data32F[i]! + out.data32F[i + 1]!) / 2)).toBeGreaterThan(1);
  });
  it('is what its pyramid holds, a quarter of a pixel on: that one has an odd kernel about even pixels', async () => {
    const cv = await openCv();
    const out = new cv.Mat();
    cv.pyrDown(cv.matFromArray(HEIGHT, WIDTH, cv.CV_32FC1, own.data), out);
    const at = (x: number, y: number): number => out.data32F[y * (WIDTH / 2) + x]!;
    expect(
      inner(
        (i, x, y) =>
          level.data[i]! -
          (0.75 * (0.75 * at(x, y) + 0.25 * at(x + 1, y)) + 0.25 * (0.75 * at(x, y + 1) + 0.25 * at(x + 1, y + 1))),
      ),
    ).toBeLessThan(1);
  });
});

describe('sampling', () => {
  const level = { ...picture(64, 64, (x, y) => 3 * x - 2 * y + 50), x0: 0, y0: 0 };
  it.each([
    ['linear', sampleRowLinear],
    ['cubic', sampleRowCubic],
  ] as const)('%s is exact on a plane and says when a point lies outside', (_, sample) => {
    const out = new Float32Array(3);
    expect(sample(level, 20.3, 1, 30.7, 0.25, 1, 0, 3, out, 0)).toBe(true);
    expect(out[2]).toBeCloseTo(3 * 22.3 - 2 * 31.2 + 50, 3);
    expect(sample(level, 62.9, 1, 30, 0, 1, 0, 3, out, 0)).toBe(false);
  });
  it('cubic follows a fine wave where linear flattens it', () => {
    const f = (x: number): number => 100 + 50 * Math.sin((2 * Math.PI * x) / 6);
    const wave = { ...picture(64, 16, f), x0: 0, y0: 0 };
    const worst = (sample: typeof sampleRowLinear): number => {
      const out = new Float32Array(40);
      sample(wave, 10.25, 1, 8, 0, 1, 0, 40, out, 0);
      return Math.max(...out.map((v, i) => Math.abs(v - f(10.25 + i))));
    };
    expect(worst(sampleRowCubic)).toBeLessThan(0.5 * worst(sampleRowLinear));
  });
});

describe('the noise estimate', () => {
  it.each([1, 4, 12])('finds a standard deviation of %d under texture', (sigma) => {
    const r = random(7);
    const t = waves(4, 30, 120);
    const f = picture(
      300,
      200,
      (x, y) => t(x, y) + sigma * Math.sqrt(-2 * Math.log(1 - r())) * Math.cos(2 * Math.PI * r()),
    );
    expect(estimateNoise(f) / sigma).toBeGreaterThan(0.9);
    expect(estimateNoise(f) / sigma).toBeLessThan(1.15);
  });
});

describe('a polygon', () => {
  it('clipped to the frame keeps the area of what lies inside', () => {
    const cut = clipToRectangle(
      [
        [-10, 10],
        [30, 10],
        [30, 50],
        [-10, 50],
      ],
      { x0: 0, y0: 0, x1: 20, y1: 40 },
    );
    expect(Math.abs(signedArea(cut))).toBeCloseTo(20 * 30, 9);
  });
  it('knows inside from outside in a notch', () => {
    const notch = [
      [0, 0],
      [10, 0],
      [10, 10],
      [5, 3],
      [0, 10],
    ] as const;
    expect(insidePolygon([5, 2], notch)).toBe(true);
    expect(insidePolygon([5, 8], notch)).toBe(false);
  });
});
