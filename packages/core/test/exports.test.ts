import fc from 'fast-check';
import yaml from 'js-yaml';
import validator from 'gltf-validator';
import Timecode from 'smpte-timecode';
import { describe, expect, it } from 'vitest';
import type { Conventions } from '../src/formats/conventions';
import { conventionMatrix } from '../src/formats/conventions';
import { matrix3d, writeCss, writeHtml } from '../src/formats/css';
import { readCsv, writeCsv } from '../src/formats/csv';
import { fieldOfView, writeGltf } from '../src/formats/gltf';
import {
  readHomographyCsv,
  readHomographyJson,
  readOpenCvYaml,
  writeHomographyCsv,
  writeHomographyJson,
  writeOpenCvYaml,
} from '../src/formats/homographies';
import { writeOtio } from '../src/formats/otio';
import { writeReport } from '../src/formats/report';
import { sceneOf } from '../src/formats/scene';
import { quaternionOf } from '../src/geometry/quaternion';
import { writeShapesJson, writeShapesSvg } from '../src/formats/shapes';
import { inverseStMap, pairsOfMap, stMap } from '../src/formats/st-map';
import { fillTemplate } from '../src/formats/table-template';
import { framesOf, timecodeAfter, timecodeOf } from '../src/formats/timecode';
import { movesOf, writeTransformCsv, writeTransformJson } from '../src/formats/transforms';
import { lensMap } from '../src/formats/st-map';
import { writeUsda } from '../src/formats/usda';
import { homographyFromPairs, mapPoint, quadToQuad } from '../src/geometry/homography';
import { distort } from '../src/geometry/lens';
import { distance } from '../src/geometry/point';
import { projectCorners, rotationBy } from '../src/geometry/pose';
import type { Quad } from '../src/geometry/quad';
import { mapQuad } from '../src/geometry/quad';
import type { Track } from '../src/track';
import { PIN, conventions, track } from './builders/small-track';
import { openCv } from './builders/opencv';

const far = (a: Track, b: Track): number =>
  Math.max(
    ...a.screens[0]!.frames.flatMap((f, i) =>
      f.corners.map((c, k) => distance(c, b.screens[0]!.frames[i]!.corners[k]!)),
    ),
  );
/** OpenCV's own tag, and its first line, which other parsers refuse. */
const parseCv = (text: string): unknown =>
  yaml.load(text.replace(/^%YAML:1\.0\n/, ''), {
    schema: yaml.DEFAULT_SCHEMA.extend([
      new yaml.Type('tag:yaml.org,2002:opencv-matrix', { kind: 'mapping', construct: (m: unknown) => m }),
    ]),
  });

describe('homographies', () => {
  it('come back from CSV, JSON and OpenCV’s YAML in every convention, either way round', () => {
    fc.assert(
      fc.property(conventions, fc.boolean(), (c, invert) => {
        const t = track();
        const o = { conventions: c, invert };
        expect(far(t, readHomographyCsv(writeHomographyCsv(t, o)))).toBeLessThan(1e-6);
        expect(far(t, readHomographyJson(JSON.parse(writeHomographyJson(t, o))))).toBeLessThan(1e-6);
        expect(far(t, readOpenCvYaml(parseCv(writeOpenCvYaml(t, o))))).toBeLessThan(1e-6);
      }),
      { numRuns: 40 },
    );
  });
  it('written, read and written again are the same bytes', () => {
    const t = track();
    const json = writeHomographyJson(t);
    expect(far(readHomographyJson(JSON.parse(json)), t)).toBeLessThan(1e-9);
    const once = writeHomographyJson(readHomographyJson(JSON.parse(json)));
    expect(writeHomographyJson(readHomographyJson(JSON.parse(once)))).toBe(once);
  });
  it('map the pin of the file to its corners, or back when inverted', () => {
    const t = track();
    const file = JSON.parse(writeHomographyJson(t, { invert: true })) as {
      maps: string;
      screens: { frames: { homography: number[] }[] }[];
    };
    expect(file.maps).toBe('frame to reference');
    mapQuad(file.screens[0]!.frames[3]!.homography, t.screens[0]!.frames[3]!.corners).forEach((p, i) =>
      expect(distance(p, PIN[i]!)).toBeLessThan(1e-9),
    );
  });
  it.each<[string, (t: string) => string, RegExp]>([
    ['a missing pin', (t) => t.replace('# pins', '# pens'), /pins/],
    ['a matrix of eight', (t) => t.trimEnd().replace(/,[^,]*$/, ''), /Line \d+: eleven numbers/],
    ['a frame that is missing', (t) => t.replace(/\n"[^\n]*,2,1003,[^\n]*/, ''), /frame 3 stands where 2/],
  ])('with %s are refused', (_, spoil, message) => {
    expect(() => readHomographyCsv(spoil(writeHomographyCsv(track())))).toThrow(message);
  });
});

describe('corners as TSV', () => {
  it('come back as they went', () => {
    const text = writeCsv(track(), undefined, '\t');
    expect(text.split('\n').find((l) => l.startsWith('screen'))).toContain('\tframe\t');
    expect(far(readCsv(text), track())).toBeLessThan(1e-6);
  });
});

describe('ST maps', () => {
  const area = { x: 0, y: 0, width: 640, height: 360 };
  it('hold the place of the content, from its left and from its bottom, with coverage as alpha', () => {
    const map = stMap(PIN, area);
    const h = quadToQuad(PIN, [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]);
    for (const [x, y] of [
      [200, 150],
      [399, 80],
      [101, 300],
      [10, 10],
      [600, 340],
    ] as const) {
      const k = (y * 640 + x) * 4;
      const [s, t] = mapPoint(h, [x + 0.5, y + 0.5]);
      expect(map[k]).toBeCloseTo(s, 4);
      expect(map[k + 1]).toBeCloseTo(1 - t, 4);
    }
    expect(map[(150 * 640 + 200) * 4 + 3]).toBe(1);
    expect(map[(10 * 640 + 10) * 4 + 3]).toBe(0);
    const cover = map.reduce((s, v, i) => (i % 4 === 3 ? s + v : s), 0);
    expect(Math.abs(cover - 78_000) / 78_000).toBeLessThan(0.03);
  });
  it('give the corners back, to a hundredth of a px', () => {
    const { content, plate } = pairsOfMap(stMap(PIN, area), area);
    const h = homographyFromPairs(content, plate);
    (
      [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ] as const
    ).forEach((p, i) => expect(distance(mapPoint(h, p), PIN[i]!)).toBeLessThan(0.01));
  });
  it('forward and inverse undo each other, through a lens too', () => {
    const lens = { radial: -0.08, width: 640, height: 360 };
    const bowed = PIN.map((p) => distort(lens, p)) as unknown as Quad;
    const forward = stMap(bowed, area, lens);
    const back = inverseStMap(bowed, { width: 64, height: 48 }, area, lens);
    for (const [i, j] of [
      [10, 10],
      [50, 30],
      [32, 40],
    ] as const) {
      const k = (j * 64 + i) * 4;
      const x = back[k]! * 640;
      const y = (1 - back[k + 1]!) * 360;
      const at = (Math.floor(y) * 640 + Math.floor(x)) * 4;
      expect(Math.abs(forward[at]! - (i + 0.5) / 64)).toBeLessThan(0.004);
      expect(Math.abs(1 - forward[at + 1]! - (j + 0.5) / 48)).toBeLessThan(0.005);
    }
  });
  it('applied by OpenCV’s remap put a fill where our own element puts it', async () => {
    const cv = await openCv();
    const map = stMap(PIN, area);
    const W = 160;
    const H = 120;
    const ramp = new Float32Array(W * H).map((_, i) => 40 + (i % W) + 0.5 * Math.floor(i / W));
    const mapX = new Float32Array(640 * 360);
    const mapY = new Float32Array(640 * 360);
    for (let i = 0; i < 640 * 360; i++) [mapX[i], mapY[i]] = [map[i * 4]! * W - 0.5, (1 - map[i * 4 + 1]!) * H - 0.5];
    const src = cv.matFromArray(H, W, cv.CV_32FC1, [...ramp]);
    const x = cv.matFromArray(360, 640, cv.CV_32FC1, [...mapX]);
    const y = cv.matFromArray(360, 640, cv.CV_32FC1, [...mapY]);
    const dst = new cv.Mat();
    cv.remap(src, dst, x, y, cv.INTER_LINEAR, cv.BORDER_REPLICATE);
    const h = quadToQuad(PIN, [
      [0, 0],
      [W, 0],
      [W, H],
      [0, H],
    ]);
    for (const [px, py] of [
      [200, 150],
      [399, 80],
      [120, 290],
      [300, 200],
    ] as const) {
      const [u, v] = mapPoint(h, [px + 0.5, py + 0.5]);
      expect(Math.abs(dst.data32F[py * 640 + px]! - (40 + u - 0.5 + 0.5 * (v - 0.5)))).toBeLessThan(0.05);
    }
    for (const m of [src, x, y, dst]) m.delete();
  });
});

describe('transforms', () => {
  const turned = (n: number): Quad => {
    const a = 0.05 * n;
    const k = 1 + 0.02 * n;
    return PIN.map(([x, y]) => [
      k * (Math.cos(a) * x - Math.sin(a) * y) + 5 * n,
      k * (Math.sin(a) * x + Math.cos(a) * y) - 2 * n,
    ]) as unknown as Quad;
  };
  it('of a similarity are told exactly, with no misfit', () => {
    const t = track(5, 'phone', turned);
    const { moves } = movesOf(t, t.screens[0]!);
    for (const m of moves) {
      expect(m.scale).toBeCloseTo(1 + 0.02 * m.frame, 9);
      expect(m.rotation).toBeCloseTo((0.05 * m.frame * 180) / Math.PI, 7);
      expect(m.misfit[0]).toBeLessThan(1e-6);
    }
  });
  it('inverted hold the Screen still', () => {
    const t = track(5, 'phone', turned);
    const s = t.screens[0]!;
    const { moves } = movesOf(t, s, { invert: true });
    for (const [i, m] of moves.entries())
      s.frames[i]!.corners.forEach((c, k) =>
        expect(
          distance(
            [
              m.affine[0]! * c[0] + m.affine[1]! * c[1] + m.affine[2]!,
              m.affine[3]! * c[0] + m.affine[4]! * c[1] + m.affine[5]!,
            ],
            PIN[k]!,
          ),
        ).toBeLessThan(1e-6),
      );
  });
  it('count turns on past half a circle', () => {
    const round = (n: number): Quad =>
      PIN.map(([x, y]) => [
        320 + Math.cos(n) * (x - 320) - Math.sin(n) * (y - 180),
        180 + Math.sin(n) * (x - 320) + Math.cos(n) * (y - 180),
      ]) as unknown as Quad;
    const t = track(8, 'phone', round);
    expect(movesOf(t, t.screens[0]!).moves[7]!.rotation).toBeCloseTo((7 * 180) / Math.PI, 5);
  });
  it('say what they are, as table and as JSON', () => {
    expect(writeTransformCsv(track(), { invert: true })).toMatch(/# inverted: moves the frame back/);
    expect(JSON.parse(writeTransformJson(track()))).toMatchObject({
      format: 'yarlop-transforms',
      screens: [{ referenceFrame: 0 }],
    });
  });
});

describe('the scene', () => {
  const camera = { width: 640, height: 360, focal: 1.25 };
  const solid = (n: number): Quad =>
    projectCorners(
      camera,
      { rotation: rotationBy([0.4 - 0.08 * n, -0.5 + 0.1 * n, 0.03 * n]), centre: [0.05 * n, -0.02, 2.4] },
      0.6,
    );
  const t = track(9, 'phone', solid);
  const scene = sceneOf(t, new Map([['phone', 'phone']]), { aspects: new Map([['phone', 0.6]]) });
  it('tells the lens from leaning views, and its misfit', () => {
    expect(scene.focalFrom).toBe('views');
    expect(scene.focal).toBeCloseTo(1.25, 1);
    expect(scene.screens[0]!.worst).toBeLessThan(0.5);
    expect(sceneOf(t, new Map(), { focal: 1.25, aspects: new Map([['phone', 0.6]]) }).screens[0]!.worst).toBeLessThan(
      0.001,
    );
  });
  it('passes the Khronos glTF validator', async () => {
    const report = await validator.validateString(writeGltf(t.plate, scene), { maxIssues: 20 });
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([]);
    expect(report.issues.numErrors).toBe(0);
  });
  it('still does with the plate hung behind, of which one picture shows at a time and fills the view', async () => {
    const dot =
      'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==';
    const text = writeGltf(
      t.plate,
      scene,
      [0, 3, 6].map((frame) => ({ frame, url: dot })),
    );
    const report = await validator.validateString(text, { maxIssues: 20 });
    expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([]);
    const file = JSON.parse(text) as {
      images: object[];
      nodes: { name: string; mesh?: number }[];
      meshes: { primitives: { attributes: { POSITION: number } }[] }[];
      accessors: { min?: number[]; max?: number[] }[];
      animations: {
        samplers: { input: number; interpolation: string }[];
        channels: { sampler: number; target: { node: number; path: string } }[];
      }[];
      cameras: { perspective: { yfov: number; aspectRatio: number } }[];
    };
    expect(file.images).toHaveLength(3);
    const behind = file.nodes.findIndex((n) => n.name === 'plate 3');
    const { min, max } = file.accessors[file.meshes[file.nodes[behind]!.mesh!]!.primitives[0]!.attributes.POSITION]!;
    const { yfov, aspectRatio } = file.cameras[0]!.perspective;
    expect(Math.atan2(max![1]!, -max![2]!) * 2).toBeCloseTo(yfov, 5);
    expect((max![0]! - min![0]!) / (max![1]! - min![1]!)).toBeCloseTo(aspectRatio, 5);
    const { channels, samplers } = file.animations[0]!;
    const shows = samplers[channels.find((c) => c.target.node === behind && c.target.path === 'scale')!.sampler]!;
    const seconds = t.plate.frameRate[1] / t.plate.frameRate[0];
    expect(shows.interpolation).toBe('STEP');
    expect(file.accessors[shows.input]!.min![0]).toBeCloseTo(0, 5);
    expect(file.accessors[shows.input]!.max![0]).toBeCloseTo(6 * seconds, 5);
  });
  it('as glTF puts the fitted corners where its own camera sees them, to a tenth of a px', () => {
    const file = JSON.parse(writeGltf(t.plate, scene)) as {
      buffers: { uri: string }[];
      bufferViews: { byteOffset: number; byteLength: number }[];
      accessors: { bufferView: number; count: number }[];
      animations: { samplers: { output: number }[] }[];
      cameras: { perspective: { yfov: number; aspectRatio: number } }[];
    };
    const bytes = Buffer.from(file.buffers[0]!.uri.split(',')[1]!, 'base64');
    const floats = (a: number, n: number): Float32Array =>
      new Float32Array(
        bytes.buffer.slice(
          bytes.byteOffset + file.bufferViews[file.accessors[a]!.bufferView]!.byteOffset,
          bytes.byteOffset +
            file.bufferViews[file.accessors[a]!.bufferView]!.byteOffset +
            4 * n * file.accessors[a]!.count,
        ),
      );
    const [move, turn] = file.animations[0]!.samplers.map((s, i) => floats(s.output, i === 0 ? 3 : 4)) as [
      Float32Array,
      Float32Array,
    ];
    const { yfov } = file.cameras[0]!.perspective;
    const f = 180 / Math.tan(yfov / 2);
    const s = scene.screens[0]!;
    const w = (s.aspect * s.height) / 2;
    const h = s.height / 2;
    for (let n = 0; n < 9; n++) {
      const [x, y, z, q] = turn.slice(4 * n, 4 * n + 4) as unknown as [number, number, number, number];
      const expected = projectCorners({ ...camera, focal: scene.focal }, s.frames[n]!.pose, 0.6);
      (
        [
          [-w, h],
          [w, h],
          [w, -h],
          [-w, -h],
        ] as const
      ).forEach(([a, b], k) => {
        // The rotation of (a, b, 0) by the unit quaternion, then the camera that looks along -z with y up.
        const px = (1 - 2 * (y * y + z * z)) * a + 2 * (x * y - z * q) * b + move[3 * n]!;
        const py = 2 * (x * y + z * q) * a + (1 - 2 * (x * x + z * z)) * b + move[3 * n + 1]!;
        const pz = 2 * (x * z - y * q) * a + 2 * (y * z + x * q) * b + move[3 * n + 2]!;
        expect(distance([320 + (f * px) / -pz, 180 - (f * py) / -pz], expected[k]!)).toBeLessThan(0.1);
      });
    }
    expect(fieldOfView(scene)).toBeCloseTo(yfov, 9);
  });
  it('makes unit quaternions of every kind of rotation', () => {
    for (const v of [
      [0, 0, 0],
      [3.1, 0, 0],
      [0, 3.1, 0],
      [0, 0, 3.1],
      [1, -2, 0.5],
    ])
      expect(Math.hypot(...quaternionOf(rotationBy(v)))).toBeCloseTo(1, 9);
  });
  it('as OpenUSD text has a transform per frame in the shot’s own labels', () => {
    const text = writeUsda(t.plate, scene);
    expect(text).toMatch(/^#usda 1\.0\n/);
    expect(text).toContain('startTimeCode = 1001');
    expect(text.match(/^ {12}\d+: \(/gm)).toHaveLength(9);
    expect([...text].filter((c) => c === '{').length).toBe([...text].filter((c) => c === '}').length);
  });
});

describe('CSS', () => {
  it('takes the content’s corners to the pin’s', () => {
    const m = /matrix3d\(([^)]*)\)/
      .exec(matrix3d(PIN, { width: 300, height: 200 }))![1]!
      .split(',')
      .map(Number);
    // Column by column: x' = m11 x + m21 y + m41, divided by w = m14 x + m24 y + m44 (CSS Transforms 2, section 13).
    (
      [
        [0, 0],
        [300, 0],
        [300, 200],
        [0, 200],
      ] as const
    ).forEach(([x, y], i) => {
      const w = m[3]! * x + m[7]! * y + m[15]!;
      expect(
        distance([(m[0]! * x + m[4]! * y + m[12]!) / w, (m[1]! * x + m[5]! * y + m[13]!) / w], PIN[i]!),
      ).toBeLessThan(1e-6);
    });
  });
  it('has one stepped keyframe a frame, and names no two Screens alike', () => {
    const css = writeCss(track(), () => ({ width: 300, height: 200 }));
    expect(css.match(/^ {2}[\d.]+%/gm)).toHaveLength(5);
    expect(css).toContain('step-end');
    expect(writeHtml(track(), () => ({ width: 300, height: 200 }), { plate: null, fills: new Map() })).toContain(
      'window.showFrame',
    );
  });
});

describe('outlines', () => {
  const outlines = new Map([
    [
      'phone',
      [
        {
          name: 'holdout 1',
          outline: {
            points: [
              [150, 100],
              [200, 100],
              [200, 150],
            ] as const,
          },
        },
      ],
    ],
  ]);
  const t = track(4, 'phone');
  it('ride on the plane, frame by frame', () => {
    const file = JSON.parse(writeShapesJson(t, outlines)) as {
      shapes: { name: string; frames: { label: number; points: [number, number][] }[] }[];
    };
    expect(file.shapes.map((s) => s.name)).toEqual(['pin', 'holdout 1']);
    const expected = mapPoint(t.screens[0]!.frames[3]!.homography, [150, 100]);
    expect(distance(file.shapes[1]!.frames[3]!.points[0]!, expected)).toBeLessThan(1e-6);
    expect(file.shapes[1]!.frames[3]!.label).toBe(1004);
  });
  it('as SVG have as many values as key times, rising from 0', () => {
    const svg = writeShapesSvg(t, outlines);
    for (const [, times, values] of svg.matchAll(/keyTimes="([^"]*)" values="([^"]*)"/g)) {
      const at = times!.split(';').map(Number);
      expect(at).toHaveLength(values!.split(';').length);
      expect(at[0]).toBe(0);
      expect(at.every((v, i) => i === 0 || v > at[i - 1]!)).toBe(true);
    }
  });
});

describe('timecode', () => {
  it('counts as SMPTE ST 12-1 publishes: a drop-frame hour is 107,892 frames; minute ten keeps its numbers', () => {
    expect(framesOf('01:00:00;00', [30000, 1001])).toBe(107_892);
    expect(framesOf('01:00:00;00', [60000, 1001])).toBe(215_784);
    expect(timecodeOf(1800, [30000, 1001], true)).toBe('00:01:00;02');
    expect(timecodeOf(17_982, [30000, 1001], true)).toBe('00:10:00;00');
    expect(framesOf('00:01:00;00', [30000, 1001])).toBeNull();
    expect(framesOf('00:10:00;00', [30000, 1001])).toBe(17_982);
    expect(timecodeOf(86_400, [24, 1], false)).toBe('01:00:00:00');
  });
  it('agrees with a well-known package', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2_500_000 }), (n) => {
        expect(timecodeOf(n, [30000, 1001], true)).toBe(Timecode(n, 29.97, true).toString());
        expect(framesOf(timecodeOf(n, [30000, 1001], true), [30000, 1001])).toBe(n);
        expect(timecodeOf(n, [25, 1], false)).toBe(Timecode(n % 2_160_000, 25, false).toString());
      }),
    );
  });
  it('goes on by frames, and is null for what is none', () => {
    expect(timecodeAfter('10:00:00:23', 1, [24, 1])).toBe('10:00:01:00');
    expect(timecodeAfter('around noon', 1, [24, 1])).toBeNull();
  });
});

describe('an edit', () => {
  it('names the schemas that OpenTimelineIO publishes, with exact times', () => {
    const file = JSON.parse(
      writeOtio(
        track(48).plate,
        [
          { name: 'plate', path: 'my plate.mp4', available: [86_400, 48], used: [86_400, 48] },
          { name: 'element', path: null, available: [1001, 48], used: [1001, 48] },
        ],
        86_400,
      ),
    ) as {
      OTIO_SCHEMA: string;
      global_start_time: object;
      tracks: {
        OTIO_SCHEMA: string;
        children: {
          OTIO_SCHEMA: string;
          children: {
            OTIO_SCHEMA: string;
            source_range: { start_time: { value: number; rate: number } };
            media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: string; target_url?: string } };
          }[];
        }[];
      };
    };
    expect([
      file.OTIO_SCHEMA,
      file.tracks.OTIO_SCHEMA,
      file.tracks.children[0]!.OTIO_SCHEMA,
      file.tracks.children[0]!.children[0]!.OTIO_SCHEMA,
    ]).toEqual(['Timeline.1', 'Stack.1', 'Track.1', 'Clip.2']);
    const [plate, element] = file.tracks.children.map((c) => c.children[0]!);
    expect(plate!.source_range.start_time).toMatchObject({ value: 86_400, rate: 24000 / 1001 });
    expect(plate!.media_references.DEFAULT_MEDIA.target_url).toBe('my%20plate.mp4');
    expect(element!.media_references.DEFAULT_MEDIA.OTIO_SCHEMA).toBe('MissingReference.1');
  });
});

describe('a table of the house’s own', () => {
  const t = track(3, 'phone');
  it('is filled frame by frame, with digits and timecode as asked for', () => {
    const text = fillTemplate(
      '# {{screen}} on {{plate}}, {{count}} frames\n{{each frame}}\n{{label}};{{tl.x:2}};{{tl.y:2}};{{timecode}}\n{{end}}\nend of {{screen}}\n',
      t,
      t.screens[0]!,
      { timecode: '10:00:00:00' },
    );
    expect(text.split('\n')).toEqual([
      '# phone on quay.mp4, 3 frames',
      '1001;100.13;50.50;10:00:00:00',
      expect.stringMatching(/^1002;103\.3\d;\d+\.\d\d;10:00:00:01$/),
      expect.stringMatching(/^1003;106\.5\d;\d+\.\d\d;10:00:00:02$/),
      'end of phone',
      '',
    ]);
  });
  it('takes the convention', () => {
    const c: Conventions = { origin: 'bottom-left', units: 'pixels', pixelOrigin: 'centre', size: [1280, 720] };
    const at = mapPoint(conventionMatrix(c, 640, 360), PIN[0]);
    expect(fillTemplate('{{each frame}}{{tl.x:3}} {{tl.y:3}}|{{end}}', t, t.screens[0]!, { conventions: c })).toMatch(
      new RegExp(`^${at[0].toFixed(3)} ${at[1].toFixed(3)}\\|`),
    );
  });
  it.each([
    ['{{each frame}}{{nonsense}}{{end}}', /nonsense/],
    ['{{each frame}}{{tl.x}}', /has no/],
    ['{{tl.x}}', /not known/],
    ['a {{end}}', /without its/],
  ] as const)('%s is refused', (template, message) => {
    expect(() => fillTemplate(template, t, t.screens[0]!)).toThrow(message);
  });
});

describe('the report', () => {
  it('needs nothing else, and says where the track is weak', () => {
    const html = writeReport(track(), {
      proofs: [
        { screen: 'harbour "phone", left', verdict: 'holds', worst: [{ frame: 2, drift: 0.8, why: 'texture slips' }] },
      ],
      settings: [['Revision', '7']],
    });
    expect(html).not.toMatch(/(src|href)="(?!data:)/);
    expect(html).toContain('harbour &quot;phone&quot;, left');
    expect(html).toContain('texture 40 %, edges 60 %');
    expect(html).toContain('0.80');
  });
  it('stands for a track of one frame', () => {
    expect(writeReport(track(1))).toContain('1001 to 1001');
  });
});

/** Of the time that the bare numbers take, which is some 50 ms on a quiet machine. */
const BARE_TIMES = 60;

describe('2,000 frames of four Screens', () => {
  it('are written in every text format within a second each', () => {
    const one = track(2000, 'a');
    const t: Track = { ...one, screens: ['a', 'b', 'c', 'd'].map((name) => ({ ...one.screens[0]!, name })) };
    // The processor's own time: test machines are shared, and what others do is no fault of a format.
    const spent = (work: () => unknown): number => {
      const began = process.cpuUsage();
      work();
      const { user, system } = process.cpuUsage(began);
      return (user + system) / 1000;
    };
    for (const write of [
      writeCsv,
      writeHomographyCsv,
      writeHomographyJson,
      writeOpenCvYaml,
      writeTransformCsv,
      writeTransformJson,
      (x: Track) => writeShapesJson(x),
      (x: Track) => writeShapesSvg(x),
      (x: Track) => writeCss(x, () => ({ width: 300, height: 200 })),
      (x: Track) => writeReport(x),
      (x: Track) => writeGltf(x.plate, sceneOf(x, new Map())),
      (x: Track) => writeUsda(x.plate, sceneOf(x, new Map())),
    ]) {
      // A machine that others load is slower in that too: as much as it is in writing the bare numbers.
      const bare = spent(() => JSON.stringify(t));
      expect(spent(() => write(t))).toBeLessThan(Math.max(2000, BARE_TIMES * bare));
    }
  });
});

describe('maps of the lens', () => {
  it('undo each other, and put a straight line where the lens bows it', () => {
    const lens = { radial: -0.08, width: 192, height: 108 };
    const take = lensMap(lens, 'undistort');
    const put = lensMap(lens, 'distort');
    const at = (map: Float32Array, x: number, y: number): [number, number] => {
      // Bilinear, as a map is read.
      const ix = Math.min(190, Math.max(0, Math.floor(x - 0.5)));
      const iy = Math.min(106, Math.max(0, Math.floor(y - 0.5)));
      const fx = x - 0.5 - ix;
      const fy = y - 0.5 - iy;
      const v = (c: number): number => {
        const p = (i: number, j: number): number => map[((iy + j) * 192 + ix + i) * 4 + c]!;
        return (p(0, 0) * (1 - fx) + p(1, 0) * fx) * (1 - fy) + (p(0, 1) * (1 - fx) + p(1, 1) * fx) * fy;
      };
      return [v(0) * 192, (1 - v(1)) * 108];
    };
    let worst = 0;
    for (const [x, y] of [
      [96, 54],
      [20, 20],
      [150, 90],
      [60, 12],
      [180, 60],
    ] as const) {
      const plate = at(take, x, y);
      const back = at(put, ...plate);
      worst = Math.max(worst, Math.hypot(back[0] - x, back[1] - y));
      expect(Math.hypot(plate[0] - distort(lens, [x, y])[0], plate[1] - distort(lens, [x, y])[1])).toBeLessThan(0.01);
    }
    expect(worst).toBeLessThan(0.01);
    expect(lensMap(lens, 'undistort', 8)).toHaveLength((192 + 16) * (108 + 16) * 4);
    // A barrel draws its corners in: the straight picture needs overscan to hold all of the plate, and the plate's own
    // surroundings lie beyond the straight picture.
    expect(lensMap(lens, 'undistort', 8)[3]).toBe(1);
    expect(lensMap(lens, 'distort', 8)[3]).toBe(0);
    expect(take[(54 * 192 + 96) * 4 + 3]).toBe(1);
  });
});
