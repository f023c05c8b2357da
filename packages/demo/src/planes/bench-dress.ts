/**
 * `npm run bench:dress`: how near a dressed picture comes to the truth. Every shot is filmed twice without grain: as
 * the plate, and with the real fill on its glass. The fill is laid into the plate at the exact corners, bare and with
 * everything that is measured from the plate (`Match all`) and outlines by hand where something passes in front, and
 * both are compared with the truth inside the screen and in a band over its edge. Writes docs/benchmarks-dressing.md.
 * Options: --width W, --only NAME, --look FOLDER (PNGs beside each other), --kept FOLDER (what is filmed is kept there,
 * so that another run films nothing: leave it out once the demo's shots have changed).
 */
import { clamp } from '@yarlop/core/clamp';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import sharp from 'sharp';
import { ssim } from 'ssim.js';
import { fillPyramid } from '@yarlop/core/dress/fill/fill-pyramid';
import { gammaAt } from '@yarlop/core/dress/colour/levels';
import { DressMeasure } from '@yarlop/core/dress/match';
import { slotAspect } from '@yarlop/core/dress/shape/placement';
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import { Renderer } from '@yarlop/core/dress/render';
import { smearOf } from '@yarlop/core/follow/timing/shutter';
import type { Holdout } from '@yarlop/core/dress/holdout/holdout';
import { mapPoint, quadToQuad } from '@yarlop/core/geometry/homography';
import type { Point } from '@yarlop/core/geometry/point';
import { distance } from '@yarlop/core/geometry/point';
import { boundsOf, insidePolygon } from '@yarlop/core/geometry/polygon';
import type { Quad } from '@yarlop/core/geometry/quad';
import type { Raster } from '@yarlop/core/image/image';
import type { DemoShot } from './shots';
import { SHOTS, cornersAt } from './shots';
import { renderFrame, seenAt } from './stage';

const { values } = parseArgs({
  options: {
    width: { type: 'string', default: '960' },
    only: { type: 'string' },
    look: { type: 'string' },
    kept: { type: 'string' },
  },
});
const WIDTH = Number(values.width);
const HEIGHT = 2 * Math.round((WIDTH * 9) / 32);
/** samples a pixel at the least: more than the clips have, so that the truth has less noise. */
const LEAST = 10;
/** Frames that are compared, spread over the shot. */
const FRAMES = [18, 44, 62, 80, 100];
/** Frames that are looked at closely, other ones than those compared. */
const MEASURED = [8, 30, 54, 72, 92, 110];
/** Frames that are glanced at besides. */
const GLANCED = [4, 116] as const;
/** Half the width of the band over the screen's edge, px at 1920 wide. */
const BAND = 6;

/** Films a frame of a shot, or takes it from the folder of those that are kept. @param kind tells plate and truth apart */
function film(set: DemoShot['set'], shot: DemoShot, n: number, kind: string): Raster {
  const kept = values.kept && join(values.kept, `${kind}-${n}-${WIDTH}.raw`);
  const isKept = kept !== undefined && existsSync(kept);
  const data = isKept ? Uint8Array.from(readFileSync(kept)) : renderFrame(set, n, shot.screens[0]!.place, LEAST);
  if (kept && !isKept) writeFileSync(kept, data);
  return { width: WIDTH, height: HEIGHT, channels: 3, data };
}
const decibels = (squares: number, n: number): number =>
  n === 0 ? NaN : 10 * Math.log10((255 * 255) / Math.max(1e-6, squares / n));

function toSegment(p: Point, a: Point, b: Point): number {
  const l = distance(a, b) ** 2;
  const t = clamp(((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / l, 0, 1);
  return distance(p, [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])]);
}

/** Squared errors inside the screen and in the band over its edge. */
class Errors {
  private readonly squares = [0, 0];
  private readonly counts = [0, 0];
  private readonly likeness: number[] = [];

  add(made: Raster, truth: Raster, q: Quad): void {
    const b = boundsOf(q);
    const band = (BAND * WIDTH) / 1920;
    const x0 = Math.max(0, Math.floor(b.x0 - 12));
    const y0 = Math.max(0, Math.floor(b.y0 - 12));
    const x1 = Math.min(WIDTH, Math.ceil(b.x1 + 12));
    const y1 = Math.min(HEIGHT, Math.ceil(b.y1 + 12));
    if (x1 - x0 < 20 || y1 - y0 < 20) return;
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < x1; x++) {
        const p: Point = [x + 0.5, y + 0.5];
        const near = Math.min(...q.map((c, i) => toSegment(p, c, q[(i + 1) % 4]!))) <= band;
        if (!near && !insidePolygon(p, q)) continue;
        const kind = near ? 1 : 0;
        for (let c = 0, k = (y * WIDTH + x) * 3; c < 3; c++) {
          this.squares[kind]! += (made.data[k + c]! - truth.data[k + c]!) ** 2;
          this.counts[kind]!++;
        }
      }
    const cut = (r: Raster): { data: Uint8ClampedArray; width: number; height: number } => {
      const width = x1 - x0;
      const height = y1 - y0;
      const data = new Uint8ClampedArray(width * height * 4).fill(255);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          for (let c = 0; c < 3; c++) data[(y * width + x) * 4 + c] = r.data[((y + y0) * WIDTH + x + x0) * 3 + c]!;
      return { data, width, height };
    };
    this.likeness.push(ssim(cut(made), cut(truth)).mssim);
  }

  get inside(): number {
    return decibels(this.squares[0]!, this.counts[0]!);
  }

  get edge(): number {
    return decibels(this.squares[1]!, this.counts[1]!);
  }

  get ssim(): number {
    return this.likeness.reduce((s, v) => s + v / this.likeness.length, 0);
  }
}

const picture = await sharp('packages/demo/assets/tide-clock.png')
  .ensureAlpha()
  .raw()
  .toBuffer({ resolveWithObject: true });
const fill: Raster = { width: picture.info.width, height: picture.info.height, channels: 4, data: picture.data };
const SHOWN = `<image href="data:image/png;base64,${readFileSync('packages/demo/assets/tide-clock.png').toString('base64')}" width="100%" height="100%" preserveAspectRatio="none"/>`;
const rows: string[] = [];
for (const folder of [values.look, values.kept]) if (folder) mkdirSync(folder, { recursive: true });

for (const [name, make] of Object.entries(SHOTS)) {
  if (values.only && values.only !== name) continue;
  const size = { width: WIDTH, height: HEIGHT, grain: 0 };
  const plateShot = await make(size);
  const truthShot = await make({ ...size, fill: SHOWN });
  const { shutter } = plateShot.set;
  const places = (i: number, n: number): Quad => cornersAt(plateShot, plateShot.screens[i]!, n) as unknown as Quad;
  const measures = plateShot.screens.map((_, i) => {
    return new DressMeasure(255, 'srgb', slotAspect(places(i, plateShot.reference)), plateShot.reference);
  });
  for (let n = GLANCED[0]; n <= GLANCED[1]; n += 2) {
    const plate = film(plateShot.set, plateShot, n, `${name}-plate`);
    for (const [i, m] of measures.entries()) m.glance({ frame: n, picture: plate, corners: places(i, n) });
    if (MEASURED.includes(n))
      for (const [i, m] of measures.entries()) {
        const q = places(i, n);
        const a = places(i, n - 1);
        const b = places(i, n + 1);
        const v = q.map((_, k): Point => [(b[k]![0] - a[k]![0]) / 2, (b[k]![1] - a[k]![1]) / 2]);
        m.look({ frame: n, picture: plate, corners: q, moves: smearOf(q, v, shutter).inFrame });
      }
  }
  // What stands in front and is told by no colour is drawn by hand, on every frame that is compared.
  const drawn = (i: number): Holdout[] =>
    (plateShot.screens[i]!.fronts ?? []).map(({ place, outline, soft }) => {
      const onPlane = (n: number): Point[] =>
        outline.map(([u, v]) =>
          mapPoint(quadToQuad(places(i, n), places(i, plateShot.reference)), seenAt(plateShot.set, place, n, u, v)),
        );
      return {
        kind: 'outline',
        points: onPlane(plateShot.reference),
        keys: FRAMES.map((frame) => ({ frame, points: onPlane(frame) })),
        softness: FRAMES.map((frame) => ({
          frame,
          value: soft * distance(seenAt(plateShot.set, place, frame, 0, 0), seenAt(plateShot.set, place, frame, 1, 0)),
        })),
      };
    });
  const dresses = measures.map((m, i) => {
    const measured = m
      .proposals(shutter)
      .reduce<DressRecipe>((d, p) => (p.part === 'grain' ? d : { ...d, ...p.recipe }), {});
    const by = drawn(i);
    return by.length > 0 ? { ...measured, holdouts: [...(measured.holdouts ?? []), ...by] } : measured;
  });
  const bare = plateShot.screens.map(() => new Errors());
  const full = plateShot.screens.map(() => new Errors());
  const renderer = new Renderer();
  for (const n of FRAMES) {
    const plate = film(plateShot.set, plateShot, n, `${name}-plate`);
    const truth = film(truthShot.set, plateShot, n, `${name}-truth`);
    const render = (dressed: boolean): Raster => {
      const target = { ...plate, data: plate.data.slice() };
      renderer.render(
        plate,
        plateShot.screens.map((_, i) => {
          const dress = dressed ? dresses[i]! : {};
          const pin = places(i, plateShot.reference);
          const corners = places(i, n);
          return {
            fill: fillPyramid(fill, { gamma: gammaAt(dress.levels ?? {}, n) }),
            corners,
            before: places(i, n - 1),
            after: places(i, n + 1),
            pin,
            plane: quadToQuad(pin, corners),
            referenceFrame: plateShot.reference,
            dress,
            frame: n,
            shutter,
            lens: plateShot.set.lens === 0 ? null : { radial: plateShot.set.lens, width: WIDTH, height: HEIGHT },
          };
        }),
        target,
      );
      return target;
    };
    const plain = render(false);
    const dressed = render(true);
    for (const i of plateShot.screens.keys()) {
      bare[i]!.add(plain, truth, places(i, n));
      full[i]!.add(dressed, truth, places(i, n));
    }
    if (values.look)
      await sharp({ create: { width: WIDTH * 3, height: HEIGHT, channels: 3, background: 'black' } })
        .composite(
          [plain, dressed, truth].map((r, k) => ({
            input: Buffer.from(r.data.buffer, r.data.byteOffset, r.data.byteLength),
            raw: { width: WIDTH, height: HEIGHT, channels: 3 as const },
            left: k * WIDTH,
            top: 0,
          })),
        )
        .png()
        .toFile(join(values.look, `${name}-${n}.png`));
  }
  for (const [i, s] of plateShot.screens.entries()) {
    const a = bare[i]!;
    const b = full[i]!;
    rows.push(
      `| ${name}${plateShot.screens.length > 1 ? `.${i + 1}` : ''} | ${s.name} | ${a.inside.toFixed(1)} | ${b.inside.toFixed(1)} | ${a.edge.toFixed(1)} | ${b.edge.toFixed(1)} | ${(b.edge - a.edge).toFixed(1)} | ${a.ssim.toFixed(3)} | ${b.ssim.toFixed(3)} |`,
    );
    process.stderr.write(`${rows.at(-1)!}\n`);
  }
}
if (!values.only)
  writeFileSync(
    'docs/benchmarks-dressing.md',
    `# How near a dressed picture comes to the truth

Made by \`npm run bench:dress\`: every shot filmed as the plate and with the real fill on its glass, without grain, ${WIDTH} wide, frames ${FRAMES.join(', ')}. The fill at the exact corners, bare and with
everything that is measured from the plate; set by hand are only the outlines of what passes in front of the loft set and the chart laptop and has no colour of its own to go by. PSNR in dB inside the screen and in a band of ${BAND} px (at 1920) to both sides of its edge; SSIM of the screen with its surroundings (the ssim.js package, after
Z. Wang et al., Image Quality Assessment, 2004).

| shot | Screen | inside, bare | inside, dressed | edge, bare | edge, dressed | edge gains | SSIM, bare | SSIM, dressed |
| --- | --- | --- | --- | --- | --- | --- | --- | --- |
${rows.join('\n')}
`,
  );
