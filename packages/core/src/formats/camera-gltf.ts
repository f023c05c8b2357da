/**
 * A solved camera as glTF 2.0 (Khronos, ISO/IEC 12113:2022): the camera as an animated node, the scene's points, planes
 * of Screens, and pictures of the plate behind. Buffers are held in the file.
 */
import type { CameraFile, ScenePlane } from '../camera/camera-file';
import { median } from '../statistics';
import { angleOf, isZoom, lensNote, usualFocal } from './camera-scene';
import type { Backdrop } from './gltf';
import { hang, picturesOf, rectangleParts } from './gltf';
import { ARRAY_BUFFER, Buffers } from './gltf-buffers';

/** Mode of a primitive that is drawn as points. Source: glTF 2.0 specification, 5.24.4. */
const POINTS = 0;
/** Times as far as the usual point that the plate hangs. */
const BEHIND = 8;

interface Parts {
  readonly nodes: object[];
  readonly meshes: object[];
}

/** The camera's way as an animation of node 0. */
function wayOf(b: Buffers, file: CameraFile): { samplers: object[]; channels: object[] } {
  const { frames, plate } = file;
  const seconds = plate.frameRate[1] / plate.frameRate[0];
  const input = b.add(
    Float32Array.from(frames, (f) => f.frame * seconds),
    'SCALAR',
    true,
  );
  let before: readonly number[] = [0, 0, 0, 1];
  const turns = frames.map(({ rotation }) => {
    // A turn has two quaternions: the one nearer to the last frame's, so that interpolation takes the short way.
    const isNear = rotation.reduce((sum, v, k) => sum + v * before[k]!, 0) >= 0;
    before = isNear ? rotation : rotation.map((v) => -v);
    return before;
  });
  const outputs = [
    b.add(Float32Array.from(frames.flatMap((f) => [...f.position])), 'VEC3', false),
    b.add(Float32Array.from(turns.flat()), 'VEC4', false),
  ];
  const zoom = zoomOf(b, file, input);
  return {
    samplers: [...outputs.map((output) => ({ input, output, interpolation: 'LINEAR' })), ...zoom.samplers],
    channels: [
      ...['translation', 'rotation'].map((path, sampler) => ({ sampler, target: { node: 0, path } })),
      ...zoom.channels.map((channel) => ({ sampler: outputs.length, ...channel })),
    ],
  };
}

function cloud(b: Buffers, { points }: CameraFile): Parts {
  if (points.length === 0) return { nodes: [], meshes: [] };
  const position = b.add(Float32Array.from(points.flatMap((p) => [...p.position])), 'VEC3', true, ARRAY_BUFFER);
  return {
    nodes: [{ name: 'points' }],
    meshes: [{ name: 'points', primitives: [{ attributes: { POSITION: position }, mode: POINTS, material: 1 }] }],
  };
}

function plane(b: Buffers, { screen, corners }: ScenePlane, index: number, uv: number): object {
  const position = b.add(Float32Array.from(corners.flat()), 'VEC3', true, ARRAY_BUFFER);
  return {
    name: screen,
    primitives: [{ attributes: { POSITION: position, TEXCOORD_0: uv }, indices: index, material: 0 }],
  };
}

const MATERIALS = [
  {
    name: 'screen',
    doubleSided: true,
    pbrMetallicRoughness: { baseColorFactor: [0.5, 0.5, 0.5, 1], metallicFactor: 0, roughnessFactor: 1 },
  },
  { name: 'points', pbrMetallicRoughness: { baseColorFactor: [0.9, 0.8, 0.5, 1], metallicFactor: 0 } },
];

/**
 * Focal lengths of a zoom, as an animation of the camera's angle.
 * Source: KHR_animation_pointer, Khronos Group (glTF 2.0 extensions).
 */
const POINTER = 'KHR_animation_pointer';

function zoomOf(b: Buffers, file: CameraFile, input: number): { samplers: object[]; channels: object[] } {
  if (!isZoom(file)) return { samplers: [], channels: [] };
  const output = b.add(
    Float32Array.from(file.frames, (f) => angleOf(file, f.focal)),
    'SCALAR',
    false,
  );
  const target = { path: 'pointer', extensions: { [POINTER]: { pointer: '/cameras/0/perspective/yfov' } } };
  return { samplers: [{ input, output, interpolation: 'LINEAR' }], channels: [{ target }] };
}

const ZOOM_NOTE = ` It zooms: its angle of view moves by ${POINTER}; where that is not read it is that of the shot's middle, and focalPxPerFrame tells all.`;

/** What glTF has no place for, and what to know of the file. */
function extrasOf(file: CameraFile): object {
  const { plate, frames, lens } = file;
  const zoom = isZoom(file) ? { focalPxPerFrame: frames.map((f) => f.focal) } : {};
  return {
    ...{ plate: plate.name, width: plate.width, height: plate.height, frameRate: plate.frameRate },
    ...{ firstFrame: plate.firstFrame, focalPx: usualFocal(file), ...zoom, lens },
    note: `${lensNote(file)} Frame k is at k / frameRate seconds.${isZoom(file) ? ZOOM_NOTE : ''}`,
  };
}

function opticsOf(file: CameraFile): object {
  const perspective = {
    yfov: angleOf(file, usualFocal(file)),
    aspectRatio: file.plate.width / file.plate.height,
    znear: 0.001,
    zfar: 10_000,
  };
  return { name: 'camera', type: 'perspective', perspective };
}

/** @param pictures of the plate, in rising order of their frames @returns the text of a file that holds all of its numbers */
export function writeCameraGltf(file: CameraFile, pictures: readonly Backdrop[] = []): string {
  const b = new Buffers();
  const { plate, frames } = file;
  const seconds = plate.frameRate[1] / plate.frameRate[0];
  const { index, uv } = rectangleParts(b);
  const { samplers, channels } = wayOf(b, file);
  const focal = usualFocal(file);
  const far = BEHIND * median(file.points.map((p) => Math.hypot(...p.position)));
  const points = cloud(b, file);
  const meshes = [...points.meshes, ...file.planes.map((p) => plane(b, p, index, uv))];
  const things = [...points.nodes, ...file.planes.map((p) => ({ name: p.screen }))].map((n, i) => ({ ...n, mesh: i }));
  const wall = { fieldOfView: angleOf(file, focal), aspect: plate.width / plate.height, far: far > 0 ? far : BEHIND };
  const behind = hang(
    b,
    pictures,
    wall,
    { seconds, uv, index },
    {
      nodes: 1 + things.length,
      meshes: meshes.length,
      materials: MATERIALS.length,
      samplers: samplers.length,
    },
  );
  const first = frames[0]!;
  const camera = {
    name: 'camera',
    camera: 0,
    translation: first.position,
    rotation: first.rotation,
    // The plate hangs before the camera and goes with it.
    ...(behind.nodes.length > 0 ? { children: behind.nodes.map((_, i) => 1 + things.length + i) } : {}),
  };
  return `${JSON.stringify(
    {
      asset: { version: '2.0', generator: 'Yarlop', extras: extrasOf(file) },
      ...(isZoom(file) ? { extensionsUsed: [POINTER] } : {}),
      scene: 0,
      scenes: [{ name: plate.name, nodes: [0, ...things.map((_, i) => 1 + i)] }],
      nodes: [camera, ...things, ...behind.nodes],
      cameras: [opticsOf(file)],
      ...(meshes.length + behind.meshes.length > 0 ? { meshes: [...meshes, ...behind.meshes] } : {}),
      materials: [...MATERIALS, ...behind.materials],
      ...picturesOf(pictures),
      animations: [
        { name: 'shot', channels: [...channels, ...behind.channels], samplers: [...samplers, ...behind.samplers] },
      ],
      ...b.members(),
    },
    null,
    1,
  )}\n`;
}
