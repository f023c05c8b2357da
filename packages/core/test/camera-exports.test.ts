/** A solved camera in open formats, read back by others: three.js, the Khronos validator, csv-parse. */
import { parse } from 'csv-parse/sync';
import validator from 'gltf-validator';
import { AnimationMixer, Euler, MathUtils, Matrix4, PerspectiveCamera, Quaternion, Vector3 } from 'three';
import type { Mesh, Points } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { USDLoader } from 'three/examples/jsm/loaders/USDLoader.js';
import { beforeAll, describe, expect, it } from 'vitest';
import type { CameraFile } from '../src/camera/camera-file';
import { radialOnWidth } from '../src/camera/camera-file';
import { seenAt, viewsOfFile } from '../src/camera/file-views';
import { matrixOf, quaternionOf } from '../src/geometry/quaternion';
import { flipped } from '../src/camera/view-model';
import { eulerXyz, writeCameraCsv } from '../src/formats/camera-csv';
import { writeCameraGltf } from '../src/formats/camera-gltf';
import { writeCameraUsda } from '../src/formats/camera-usda';
import { lensMap } from '../src/formats/st-map';
import { undistort } from '../src/geometry/lens';
import { FRAMES, SCREEN, cameraFile } from './builders/camera-file';
import { random } from './builders/scene';

const AT = [0.4, -0.3, -5] as const;
/** Without a bow, as these formats have it; with a point and a plane. */
function file(zoom = 0): CameraFile {
  const own = cameraFile();
  return {
    ...own,
    lens: { ...own.lens, radial: [0, 0] },
    frames: own.frames.map((f) => ({ ...f, focal: f.focal * (1 + zoom * f.frame) })),
    points: [{ id: 7, position: AT, frames: 20, error: 0.1 }],
    planes: [{ screen: 'quay "laptop"', corners: SCREEN.map(([x, y, z]) => flipped([x!, y!, z!])) }],
  };
}
/** Px, as Yarlop itself sees a point of the scene. */
const seen = (f: CameraFile, frame: number, at: readonly [number, number, number]): readonly [number, number] =>
  seenAt(f, viewsOfFile(f).get(frame)!, flipped(at))!;
/** Px, as three.js sees it. */
function seenByThree(camera: PerspectiveCamera, at: readonly number[], { plate }: CameraFile): [number, number] {
  camera.updateMatrixWorld(true);
  const p = new Vector3(...(at as [number, number, number])).project(camera);
  return [((p.x + 1) / 2) * plate.width, ((1 - p.y) / 2) * plate.height];
}
beforeAll(() => {
  // three.js tells the progress of its loading as browsers do.
  (globalThis as { ProgressEvent?: unknown }).ProgressEvent ??= class extends Event {};
});

describe('turns', () => {
  const dice = random(11);
  const any = (): Quaternion => new Quaternion(dice() - 0.5, dice() - 0.5, dice() - 0.5, dice() - 0.5).normalize();

  it('as quaternions and as angles are those of three.js', () => {
    for (let i = 0; i < 40; i++) {
      const q = any();
      const own = q.toArray() as [number, number, number, number];
      const m = new Matrix4().makeRotationFromQuaternion(q).elements;
      matrixOf(own).forEach((v, k) => expect(v).toBeCloseTo(m[4 * (k % 3) + Math.floor(k / 3)]!, 12));
      const back = new Quaternion(...quaternionOf(matrixOf(own)));
      expect(Math.abs(back.dot(q))).toBeCloseTo(1, 12);
      const euler = new Euler().setFromQuaternion(q, 'XYZ');
      eulerXyz(own).forEach((v, k) => expect(v).toBeCloseTo([euler.x, euler.y, euler.z][k]!, 9));
    }
  });

  it('straight to the side, where two angles are one, are the same turn', () => {
    for (const y of [90, -90]) {
      const q = new Quaternion().setFromEuler(new Euler(0.3, MathUtils.degToRad(y), 0.2, 'XYZ'));
      const own = eulerXyz(q.toArray() as [number, number, number, number]);
      expect(Math.abs(new Quaternion().setFromEuler(new Euler(...own, 'XYZ')).dot(q))).toBeCloseTo(1, 6);
    }
  });
});

describe('as glTF', () => {
  it('is valid, and three.js sees the scene through it as Yarlop does, on every frame', async () => {
    const own = file();
    const text = writeCameraGltf(own);
    expect((await validator.validateString(text)).issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    const { scene, cameras, animations } = await new GLTFLoader().parseAsync(text, '');
    const camera = cameras[0] as PerspectiveCamera;
    const mixer = new AnimationMixer(scene);
    mixer.clipAction(animations[0]!).play();
    for (let frame = 0; frame < FRAMES; frame++) {
      // The end of a clip is its beginning again.
      mixer.setTime(frame === FRAMES - 1 ? frame / 24 - 1e-6 : frame / 24);
      const [x, y] = seenByThree(camera, AT, own);
      const [u, v] = seen(own, frame, AT);
      expect(Math.hypot(x - u, y - v)).toBeLessThan(0.02);
    }
    const cloud = scene.getObjectByName('points') as Points;
    expect([...cloud.geometry.getAttribute('position').array].map((v) => Number(v.toFixed(5)))).toEqual([...AT]);
    const plane = scene.children.find((c) => c.name.startsWith('quay')) as Mesh;
    const corners = plane.geometry.getAttribute('position');
    own.planes[0]!.corners.forEach((c, k) => {
      expect(corners.getX(k)).toBeCloseTo(c[0], 5);
      expect(corners.getY(k)).toBeCloseTo(c[1], 5);
      expect(corners.getZ(k)).toBeCloseTo(c[2], 5);
    });
  });

  it('moves the angle of view of a zoom by KHR_animation_pointer', () => {
    const own = file(0.01);
    const parsed = JSON.parse(writeCameraGltf(own)) as {
      extensionsUsed?: string[];
      animations: { channels: { sampler: number; target: unknown }[]; samplers: { output: number }[] }[];
      accessors: { bufferView: number; count: number; byteOffset?: number }[];
      bufferViews: { byteOffset?: number; byteLength: number }[];
      buffers: { uri: string }[];
    };
    expect(parsed.extensionsUsed).toEqual(['KHR_animation_pointer']);
    const { channels, samplers } = parsed.animations[0]!;
    const { sampler, target } = channels.at(-1)!;
    expect(target).toEqual({
      path: 'pointer',
      extensions: { KHR_animation_pointer: { pointer: '/cameras/0/perspective/yfov' } },
    });
    const accessor = parsed.accessors[samplers[sampler]!.output]!;
    const view = parsed.bufferViews[accessor.bufferView]!;
    const bytes = Buffer.from(parsed.buffers[0]!.uri.split(',')[1]!, 'base64');
    own.frames.forEach((f, i) => {
      const angle = bytes.readFloatLE((view.byteOffset ?? 0) + (accessor.byteOffset ?? 0) + 4 * i);
      expect(own.plate.height / 2 / Math.tan(angle / 2)).toBeCloseTo(f.focal, 1);
    });
    expect(writeCameraGltf(file(0))).not.toContain('KHR_animation_pointer');
  });

  it('tells the focal lengths of a zoom beside, and has the plate behind, filling the view', async () => {
    const own = file(0.01);
    const url =
      'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
    const text = writeCameraGltf(
      own,
      [0, 10].map((frame) => ({ frame, url })),
    );
    expect((await validator.validateString(text)).issues.numErrors).toBe(0);
    const parsed = JSON.parse(text) as {
      asset: { extras: { focalPxPerFrame: number[] } };
      nodes: { name: string; children?: number[] }[];
    };
    expect(parsed.asset.extras.focalPxPerFrame).toEqual(own.frames.map((f) => f.focal));
    expect(parsed.nodes[0]!.children!.map((n) => parsed.nodes[n]!.name)).toEqual(['plate 0', 'plate 10']);
  });
});

describe('as OpenUSD text', () => {
  /** Matrix of a frame as three.js has it: USD's rows are three's columns. */
  function transformIn(text: string, frame: number): Matrix4 {
    const line = new RegExp(`^ +${frame}: \\( (.*) \\),$`, 'm').exec(text.split('xformOp:transform.timeSamples')[1]!)!;
    return new Matrix4().fromArray(line[1]!.match(/-?[\d.]+(?:e[-+]\d+)?/g)!.map(Number));
  }

  it('is read by three.js, whose camera sees the scene as Yarlop does', () => {
    const own = file();
    const text = writeCameraUsda(own);
    const read = new USDLoader().parse(text as unknown as ArrayBuffer);
    const camera = read.getObjectByName('Camera') as PerspectiveCamera;
    expect(camera).toBeInstanceOf(PerspectiveCamera);
    const free = new PerspectiveCamera(camera.fov, own.plate.width / own.plate.height);
    for (const frame of [0, 13, FRAMES - 1]) {
      transformIn(text, frame).decompose(free.position, free.quaternion, free.scale);
      const [x, y] = seenByThree(free, AT, own);
      const [u, v] = seen(own, frame, AT);
      expect(Math.hypot(x - u, y - v)).toBeLessThan(0.01);
    }
    expect(text).toContain('int64[] ids = [7]');
    expect(text).toContain('string name = "quay \\"laptop\\""');
  });

  it('has a focal length a frame for a zoom, and the labels of the shot', () => {
    const own = { ...file(0.01), plate: { ...file().plate, firstFrame: 1001 } };
    const [, samples] = /focalLength\.timeSamples = \{([^}]*)\}/.exec(writeCameraUsda(own))!;
    const all = [...samples!.matchAll(/(\d+): ([\d.]+),/g)].map((m) => [Number(m[1]), Number(m[2])]);
    expect(all).toHaveLength(FRAMES);
    // 36 tenths of a unit across, as wide as the picture.
    expect(all[4]).toEqual([1005, Number(((own.frames[4]!.focal / own.plate.width) * 36).toPrecision(10))]);
  });
});

describe('as a table', () => {
  it('is read as it says: places, turns, angle of view', () => {
    const own = file();
    const rows = parse(writeCameraCsv(own), { columns: true, comment: '#' }) as Record<string, string>[];
    expect(rows).toHaveLength(FRAMES);
    const row = rows[9]!;
    const of = (...names: string[]): number[] => names.map((n) => Number(row[n]));
    const camera = new PerspectiveCamera();
    camera.position.fromArray(of('x', 'y', 'z'));
    camera.quaternion.fromArray(of('qx', 'qy', 'qz', 'qw'));
    const turns = of('turn_x_deg', 'turn_y_deg', 'turn_z_deg').map(MathUtils.degToRad) as [number, number, number];
    expect(Math.abs(new Quaternion().setFromEuler(new Euler(...turns, 'XYZ')).dot(camera.quaternion))).toBeCloseTo(
      1,
      8,
    );
    camera.aspect = own.plate.width / own.plate.height;
    // three.js counts the angle along the height.
    const across = MathUtils.degToRad(Number(row['angle_across_deg']));
    camera.fov = MathUtils.radToDeg(2 * Math.atan(Math.tan(across / 2) / camera.aspect));
    camera.updateProjectionMatrix();
    const [x, y] = seenByThree(camera, AT, own);
    const [u, v] = seen(own, 9, AT);
    expect(Math.hypot(x - u, y - v)).toBeLessThan(1e-5);
  });
});

describe('the lens', () => {
  it('as a map undoes the bow that the camera sees the scene with', () => {
    const own = { ...file(), lens: { ...file().lens, radial: [-0.09, 0] as const } };
    const { width, height } = own.plate;
    const [ideal, bowed] = [seen(file(), 12, AT), seen(own, 12, AT)];
    const radial = radialOnWidth(own);
    const back = undistort({ radial, width, height }, [...bowed]);
    expect(Math.hypot(back[0] - ideal[0], back[1] - ideal[1])).toBeLessThan(1e-6);
    expect(Math.hypot(bowed[0] - ideal[0], bowed[1] - ideal[1])).toBeGreaterThan(0.3);
    const map = lensMap({ radial, width, height }, 'undistort');
    const at = 4 * (Math.floor(ideal[1]) * width + Math.floor(ideal[0]));
    expect(Math.abs(map[at]! * width - bowed[0])).toBeLessThan(1);
    expect(Math.abs((1 - map[at + 1]!) * height - bowed[1])).toBeLessThan(1);
  });
});
