/** What stands before a Screen: found by what the plane usually shows, matted by the light of both sides. */
import { describe, expect, it } from 'vitest';
import { coverOf } from '../src/dress/front/found-cover';
import { takeFrontApart } from '../src/dress/front/front-matte';
import type { FoundFronts } from '../src/dress/front/front-search';
import { FrontSearch } from '../src/dress/front/front-search';
import { fillPyramid } from '../src/dress/fill/fill-pyramid';
import { DressMeasure } from '../src/dress/match';
import { withProposals } from '../src/dress/proposals';
import { Renderer } from '../src/dress/render';
import { CURVES, encode, encodingTable } from '../src/dress/colour/transfer';
import { mapPoint, unitSquareToQuad } from '../src/geometry/homography';
import type { Matrix3 } from '../src/geometry/matrix3';
import { inverse } from '../src/geometry/matrix3';
import type { Quad } from '../src/geometry/quad';
import type { Raster } from '../src/image/image';
import { quantile } from '../src/statistics';

const WIDTH = 320;
const HEIGHT = 200;
const { decode } = CURVES.srgb;
const CODES = encodingTable(255);
/** Frames of a built shot. */
const FRAMES = 24;

/** The glass drifts by a third of a px a frame. */
const pinOn = (n: number): Quad => {
  const x = 60 + n / 3;
  return [
    [x, 40],
    [x + 180, 44],
    [x + 178, 150],
    [x + 2, 148],
  ];
};

const slots = Array.from({ length: FRAMES }, (_, n) => inverse(unitSquareToQuad(pinOn(n))));
const toSlot = (n: number): Matrix3 => slots[n]!;

type Light = readonly [number, number, number];

/** What a built shot shows besides its device. */
interface Scene {
  /** of the glass at shares of its width and height */
  readonly glass: (s: number, t: number, n: number) => Light;
  /** cover and light of what stands in front, at px */
  readonly front?: (x: number, y: number, n: number) => { readonly cover: number; readonly light: Light };
  /** of the whole picture */
  readonly exposure?: (n: number) => number;
}

const BEZEL: Light = [0.25, 0.25, 0.27];
const ROOM: Light = [0.08, 0.07, 0.06];
const SKIN: Light = [0.45, 0.26, 0.18];
const DARK: Light = [0.01, 0.011, 0.013];

/** Entries of the table of noise: a prime, so that frames do not repeat each other's. */
const NOISES = 65537;
const noises = Float32Array.from({ length: NOISES }, (_, i) => {
  const v = Math.sin(i * 12.9898) * 43758.5453;
  return v - Math.floor(v) - 0.5;
});

/** A small even noise that is another on each frame. */
function noise(i: number, n: number): number {
  return noises[(i + 7919 * n) % NOISES]!;
}

/** The share of a pixel on one side of a line, from how far its middle lies from it. */
const soft = (d: number, width: number): number => Math.min(1, Math.max(0, d / width + 0.5));

function lightAt(scene: Scene, n: number, x: number, y: number): Light {
  const [s, t] = mapPoint(toSlot(n), [x, y]);
  const inside = s > 0 && s < 1 && t > 0 && t < 1;
  const onBezel = s > -0.06 && s < 1.06 && t > -0.08 && t < 1.08;
  let behind: Light = onBezel ? BEZEL : ROOM;
  if (inside) behind = scene.glass(s, t, n);
  const front = scene.front?.(x, y, n);
  if (!front) return behind;
  return behind.map((v, c) => v + front.cover * (front.light[c]! - v)) as unknown as Light;
}

function frameOf(scene: Scene, n: number): Raster {
  const data = new Uint8Array(3 * WIDTH * HEIGHT);
  const exposure = scene.exposure?.(n) ?? 1;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      for (const v of lightAt(scene, n, x + 0.5, y + 0.5))
        data[i] = Math.round(encode(CODES, exposure * v) + 2 * noise(i++, n));
  return { width: WIDTH, height: HEIGHT, channels: 3, data };
}

function foundIn(scene: Scene): FoundFronts | null {
  const search = new FrontSearch(1.7);
  for (let n = 0; n < FRAMES; n++) search.see(n, frameOf(scene, n), pinOn(n), null);
  return search.found();
}

/** A bar that comes in from below and goes, its edges `width` px wide. */
const bar = (width: number, light: Light = SKIN): NonNullable<Scene['front']> => {
  return (x, y, n) => {
    const top = 156 - 70 * Math.max(0, Math.sin((Math.PI * (n - 4)) / 12));
    return { cover: soft(y - top, width) * soft(18 - Math.abs(x - 150), width), light };
  };
};

const page = (s: number, t: number): Light =>
  Math.sin(40 * s) * Math.sin(31 * t) > 0.2 ? [0.05, 0.05, 0.08] : [0.6, 0.58, 0.5];

/** A window's light that glides over the glass and is mirrored in it. */
const gliding =
  (own: (s: number, t: number) => Light): Scene['glass'] =>
  (s, t, n) => {
    const there = soft(0.15 - Math.abs(s - n / FRAMES), 0.05);
    return own(s, t).map((v) => v + 0.12 * there) as unknown as Light;
  };

/** Intersection over union of what is found with what is there, within the pin. */
function overlap(scene: Scene, found: FoundFronts, n: number): number {
  const region = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const light = Float32Array.from(frameOf(scene, n).data, (v) => decode(v / 255));
  const apart = takeFrontApart(light, found, { region, corners: pinOn(n), lens: null, frame: n });
  let inter = 0;
  let union = 0;
  const [[left, top]] = pinOn(n);
  for (let y = Math.ceil(top) + 4; y < 144; y++)
    for (let x = Math.ceil(left) + 3; x < left + 176; x++) {
      const truth = scene.front!(x + 0.5, y + 0.5, n).cover;
      const { part, alpha } = apart ?? { part: { x: 0, y: 0, width: 0, height: 0 }, alpha: [] };
      const [i, j] = [x - part.x, y - part.y];
      const mine = i >= 0 && j >= 0 && i < part.width && j < part.height ? alpha[j * part.width + i]! : 0;
      inter += Math.min(mine, truth);
      union += Math.max(mine, truth);
    }
  return inter / union;
}

describe('finding what stands before a Screen', () => {
  it.each([
    ['dark glass', () => DARK],
    ['dark glass with a window gliding over it', gliding(() => DARK)],
    ['a page', page],
  ])('finds a bar that comes in over the edge of %s', (_, glass) => {
    const scene: Scene = { glass, front: bar(1.5) };
    const found = foundIn(scene)!;
    expect(found).not.toBeNull();
    expect(coverOf(found).from).toBeLessThan(7);
    for (const n of [7, 10, 13]) expect(overlap(scene, found, n)).toBeGreaterThan(0.9);
  });

  it.each([
    ['dark glass', () => DARK],
    ['dark glass with a window gliding over it', gliding(() => DARK)],
    ['a page with a window gliding over it', gliding(page)],
    ['a page that changes', (s: number, t: number, n: number) => (n < 12 ? page(s, t) : page(t, s))],
    ['a film', (s: number, t: number, n: number) => page(s + n / 7, t + n / 11)],
  ])('finds nothing before %s alone', (_, glass) => {
    expect(foundIn({ glass })).toBeNull();
  });

  it('finds it while the light falls by more than a stop', () => {
    const scene: Scene = { glass: () => DARK, front: bar(1.5), exposure: (n) => 2 ** (-1.5 * (n / FRAMES)) };
    const found = foundIn(scene)!;
    // The cover is compared on a frame of full light.
    expect(overlap({ ...scene, exposure: () => 1 }, found, 10)).toBeGreaterThan(0.9);
  });

  it('finds what never moves before even glass', () => {
    const front = (x: number, y: number): { cover: number; light: Light } => ({
      cover: soft(y - 120, 1.5) * soft(18 - Math.abs(x - 150), 1.5),
      light: SKIN,
    });
    const scene: Scene = { glass: () => DARK, front };
    expect(overlap(scene, foundIn(scene)!, 12)).toBeGreaterThan(0.9);
  });

  it('leaves the soft edge of what is out of focus soft', () => {
    const scene: Scene = { glass: () => DARK, front: bar(14) };
    const found = foundIn(scene)!;
    expect(found.edge).toBeGreaterThan(foundIn({ ...scene, front: bar(1.5) })!.edge);
    expect(overlap(scene, found, 10)).toBeGreaterThan(0.85);
  });

  it('tells nothing of no frames, of one, and of a Screen beyond the picture', () => {
    expect(new FrontSearch(1.7).found()).toBeNull();
    const one = new FrontSearch(1.7);
    one.see(0, frameOf({ glass: () => DARK }, 0), pinOn(0), null);
    expect(one.found()).toBeNull();
    const beyond = new FrontSearch(1.7);
    const away = pinOn(0).map(([x, y]) => [x + 900, y]) as unknown as Quad;
    for (let n = 0; n < FRAMES; n++) beyond.see(n, frameOf({ glass: () => DARK }, n), away, null);
    expect(beyond.found()).toBeNull();
  });
});

describe('a dress with what was found', () => {
  const scene: Scene = { glass: () => DARK, front: bar(3) };
  const fill: Raster = { width: 2, height: 2, channels: 3, data: new Uint8Array(12).fill(230) };

  const found = foundIn(scene)!;

  function dressed(show: 'dressed' | 'matte', n: number): Raster {
    const plate = frameOf(scene, n);
    const target = { ...plate, data: plate.data.slice() };
    const dress = { holdouts: [{ kind: 'found', found }] } as const;
    new Renderer().render(
      plate,
      [{ fill: fillPyramid(fill), corners: pinOn(n), pin: pinOn(0), dress, frame: n }],
      target,
      { show },
    );
    return target;
  }

  it('lays the fill behind it: edges hold the fill and it, and nothing of the dark glass', () => {
    const n = 10;
    const made = dressed('dressed', n);
    const light = decode(230 / 255);
    const off: number[] = [];
    for (let y = 60; y < 140; y++)
      for (let x = 80; x < 220; x++) {
        const { cover } = scene.front!(x + 0.5, y + 0.5, n);
        for (let c = 0; c < 3; c++) {
          const truth = 255 * CURVES.srgb.encode(light + cover * (SKIN[c]! - light));
          off.push(Math.abs(made.data[3 * (y * WIDTH + x) + c]! - truth));
        }
      }
    // Noise of the plate, and a tenth of a px of the edge; the dark glass would be 100 levels off on 5 % of the pixels.
    expect(quantile(off, 0.99)).toBeLessThan(14);
    expect(quantile(off, 1)).toBeLessThan(40);
  });

  it('shows its matte black', () => {
    const matte = dressed('matte', 10);
    expect(matte.data[3 * (130 * WIDTH + 150)]).toBe(0);
    expect(matte.data[3 * (70 * WIDTH + 100)]).toBe(255);
  });

  it('is proposed for what is no keyed screen, and leaves what a person drew', () => {
    const measure = new DressMeasure(255, 'srgb', 1.7, 0);
    for (let n = 0; n < FRAMES; n++) {
      const sample = { frame: n, picture: frameOf(scene, n), corners: pinOn(n) };
      measure.glance(sample);
      if (n % 8 === 0) measure.look(sample);
    }
    const proposal = measure.proposals(null).find((p) => p.part === 'holdouts')!;
    expect(proposal.told).toMatch(/^something stands before it on \d+ frames, over up to \d+ % of the glass$/);
    const drawn = {
      kind: 'outline',
      points: [
        [0, 0],
        [9, 0],
        [9, 9],
      ],
    } as const;
    const earlier = {
      kind: 'found',
      found: { columns: 2, rows: 2, ring: 1, from: 0, masks: ['1 1'], edge: 1, isEven: true },
    } as const;
    const { holdouts } = withProposals({ holdouts: [earlier, drawn] }, [proposal]);
    expect(holdouts!.map((h) => h.kind)).toEqual(['found', 'outline']);
    expect(holdouts![0]).toEqual(proposal.recipe.holdouts![0]);
  });
});
