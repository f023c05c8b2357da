/**
 * The scene as glTF 2.0 (Khronos, ISO/IEC 12113:2022): a camera at the origin, and for each Screen a rectangle of the
 * device's size, animated by translation and rotation at the frames' times. Buffers are held in the file.
 */
import type { PlateInfo } from '../track';
import { ARRAY_BUFFER, Buffers, ELEMENT_ARRAY_BUFFER } from './gltf-buffers';
import type { Scene } from './scene';

/** Vertical field of view, radians. */
export function fieldOfView(s: Scene): number {
  return 2 * Math.atan(s.height / 2 / (s.focal * s.width));
}

/** A picture of the plate, shown from its frame on to the next one's. */
export interface Backdrop {
  readonly frame: number;
  /** data address of a JPEG or PNG */
  readonly url: string;
}

/** Times as far as the farthest Screen that the plate hangs. */
const BEHIND = 4;

/** What a camera sees of a wall before it. */
export interface Wall {
  /** vertical field of view, radians */
  readonly fieldOfView: number;
  /** width by height */
  readonly aspect: number;
  /** units ahead of the camera */
  readonly far: number;
}

/** What all rectangles of a file have in common. */
export interface Shared {
  /** of a frame */
  readonly seconds: number;
  /** accessors of texture coordinates and of a rectangle's corners in order */
  readonly uv: number;
  readonly index: number;
}

/** Corners of a rectangle in the order of its two triangles, and how a picture lies on it. */
export function rectangleParts(b: Buffers): Pick<Shared, 'uv' | 'index'> {
  const index = b.add(Uint16Array.from([0, 3, 2, 0, 2, 1]), 'SCALAR', false, ELEMENT_ARRAY_BUFFER);
  return { index, uv: b.add(Float32Array.from([0, 0, 1, 0, 1, 1, 0, 1]), 'VEC2', false, ARRAY_BUFFER) };
}

/**
 * Rectangles that fill the camera's view behind everything, one a picture, of which each is shown at its time: the
 * others have no size.
 */
export function hang(
  b: Buffers,
  pictures: readonly Backdrop[],
  { fieldOfView, aspect, far }: Wall,
  { seconds, uv, index }: Shared,
  from: { readonly nodes: number; readonly meshes: number; readonly materials: number; readonly samplers: number },
): { nodes: object[]; meshes: object[]; materials: object[]; channels: object[]; samplers: object[] } {
  const h = far * Math.tan(fieldOfView / 2);
  const w = h * aspect;
  const shape = b.add(
    Float32Array.from([-w, h, -far, w, h, -far, w, -h, -far, -w, -h, -far]),
    'VEC3',
    true,
    ARRAY_BUFFER,
  );
  const times = pictures.map((p) => p.frame * seconds);
  const switches = pictures.map((_, i) => {
    // From nothing to its size at its own time, and back at the next one's.
    const at = [...(i > 0 ? [times[0]!] : []), times[i]!, ...(i + 1 < times.length ? [times[i + 1]!] : [])];
    const shown = [...(i > 0 ? [0] : []), 1, ...(i + 1 < times.length ? [0] : [])];
    return {
      input: b.add(Float32Array.from(at), 'SCALAR', true),
      output: b.add(Float32Array.from(shown.flatMap((v) => [v, v, v])), 'VEC3', false),
      interpolation: 'STEP',
    };
  });
  return {
    nodes: pictures.map((p, i) => ({
      name: `plate ${p.frame}`,
      mesh: from.meshes + i,
      ...(i > 0 ? { scale: [0, 0, 0] } : {}),
    })),
    meshes: pictures.map((p, i) => ({
      name: `plate ${p.frame}`,
      primitives: [{ attributes: { POSITION: shape, TEXCOORD_0: uv }, indices: index, material: from.materials + i }],
    })),
    // Lit by itself, so that no light of the scene changes it.
    materials: pictures.map((p, i) => ({
      name: `plate ${p.frame}`,
      doubleSided: true,
      emissiveFactor: [1, 1, 1],
      emissiveTexture: { index: i },
      pbrMetallicRoughness: { baseColorFactor: [0, 0, 0, 1], metallicFactor: 0, roughnessFactor: 1 },
    })),
    samplers: switches,
    channels: switches.map((_, i) => ({ sampler: from.samplers + i, target: { node: from.nodes + i, path: 'scale' } })),
  };
}

/** Members of a file that has pictures; none without. */
export function picturesOf(pictures: readonly Backdrop[]): object {
  if (pictures.length === 0) return {};
  return {
    textures: pictures.map((_, i) => ({ source: i })),
    images: pictures.map((p) => ({ name: `plate ${p.frame}`, uri: p.url })),
  };
}

/** Parts of a file that a Screen adds. */
interface Parts {
  readonly meshes: object[];
  readonly nodes: object[];
  readonly channels: object[];
  readonly samplers: object[];
}

/** Accessors of the rectangle that all Screens share. */
type Rectangle = ReturnType<typeof rectangleParts>;

/** A Screen as a rectangle in its own plane, with how far its fitted corners lie from the tracked ones. */
function addRectangle(b: Buffers, parts: Parts, s: Scene['screens'][number], { index, uv }: Rectangle): void {
  const w = (s.aspect * s.height) / 2;
  const h = s.height / 2;
  const first = s.frames[0]!;
  const position = b.add(Float32Array.from([-w, h, 0, w, h, 0, w, -h, 0, -w, -h, 0]), 'VEC3', true, ARRAY_BUFFER);
  const primitive = { attributes: { POSITION: position, TEXCOORD_0: uv }, indices: index, material: 0 };
  parts.nodes.push({
    name: s.name,
    mesh: parts.meshes.length,
    translation: first.translation,
    rotation: first.rotation,
    extras: {
      misfitPx: Number(s.worst.toFixed(4)),
      heightMetres: s.height,
      misfitPxPerFrame: s.frames.map((f) => Number(f.misfit.toFixed(4))),
    },
  });
  parts.meshes.push({ name: s.name, primitives: [primitive] });
}

/** How the last node moves. @param seconds of a frame */
function addMovement(b: Buffers, parts: Parts, s: Scene['screens'][number], seconds: number): void {
  const node = parts.nodes.length - 1;
  const times = Float32Array.from(s.frames, (f) => f.frame * seconds);
  const input = b.add(times, 'SCALAR', true);
  const kinds = [
    ['translation', 'VEC3'],
    ['rotation', 'VEC4'],
  ] as const;
  for (const [path, type] of kinds) {
    const output = b.add(Float32Array.from(s.frames.flatMap((f) => f[path])), type, false);
    parts.samplers.push({ input, output, interpolation: 'LINEAR' });
    parts.channels.push({ sampler: parts.samplers.length - 1, target: { node, path } });
  }
}

const SCREEN_MATERIAL = {
  name: 'screen',
  doubleSided: true,
  pbrMetallicRoughness: { baseColorFactor: [0.5, 0.5, 0.5, 1], metallicFactor: 0, roughnessFactor: 1 },
};

function assetOf(plate: PlateInfo, scene: Scene): object {
  const extras = {
    plate: plate.name,
    width: plate.width,
    height: plate.height,
    frameRate: plate.frameRate,
    firstFrame: plate.firstFrame,
    focalPictureWidths: scene.focal,
    focalFrom: scene.focalFrom,
    note: 'Rigid poses fitted to the corners; misfitPx of each Screen is the farthest that a fitted corner lies from its tracked one. Frame k is at k / frameRate seconds.',
  };
  return { version: '2.0', generator: 'Yarlop', extras };
}

/** @param pictures of the plate, in rising order of their frames */
export function writeGltf(plate: PlateInfo, scene: Scene, pictures: readonly Backdrop[] = []): string {
  const b = new Buffers();
  const seconds = plate.frameRate[1] / plate.frameRate[0];
  const rectangle = rectangleParts(b);
  const parts: Parts = { meshes: [], nodes: [{ name: 'camera', camera: 0 }], channels: [], samplers: [] };
  for (const s of scene.screens) {
    addRectangle(b, parts, s, rectangle);
    addMovement(b, parts, s, seconds);
  }
  const farthest = scene.screens.reduce((m, s) => s.frames.reduce((n, f) => Math.max(n, -f.translation[2]), m), 1);
  const aspectRatio = scene.width / scene.height;
  const wall = { fieldOfView: fieldOfView(scene), aspect: aspectRatio, far: BEHIND * farthest };
  const after = {
    nodes: parts.nodes.length,
    meshes: parts.meshes.length,
    materials: 1,
    samplers: parts.samplers.length,
  };
  const behind = hang(b, pictures, wall, { seconds, ...rectangle }, after);
  const nodes = [...parts.nodes, ...behind.nodes];
  const channels = [...parts.channels, ...behind.channels];
  const samplers = [...parts.samplers, ...behind.samplers];
  const perspective = { yfov: fieldOfView(scene), aspectRatio, znear: 0.01, zfar: 1000 };
  const file = {
    asset: assetOf(plate, scene),
    scene: 0,
    scenes: [{ name: plate.name, nodes: nodes.map((_, i) => i) }],
    nodes,
    cameras: [{ name: 'camera', type: 'perspective', perspective }],
    meshes: [...parts.meshes, ...behind.meshes],
    materials: [SCREEN_MATERIAL, ...behind.materials],
    ...picturesOf(pictures),
    ...(channels.length > 0 ? { animations: [{ name: 'shot', channels, samplers }] } : {}),
    ...b.members(),
  };
  return `${JSON.stringify(file, null, 1)}\n`;
}
