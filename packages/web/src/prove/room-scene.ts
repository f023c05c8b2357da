/** The scene of a solved camera for a 3D view: points, the camera's way, its place on a frame, planes of Screens, ground. */
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { quantile } from '@yarlop/core/statistics';
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  GridHelper,
  Group,
  Line,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  Points,
  PointsMaterial,
  Quaternion,
  Vector3,
} from 'three';

/** Colours of what is drawn, as the page has them. */
export interface RoomColours {
  readonly point: string;
  readonly doubtful: string;
  readonly way: string;
  readonly camera: string;
  readonly ground: string;
  /** of the planes, one after another */
  readonly planes: readonly string[];
}

/** Share of the points, the nearest to the middle, that a view takes in: single ones lie far off. By trial. */
const TAKEN_IN = 0.9;
/** Of the scene's size: how long the drawn camera is. By trial. */
const CAMERA_SIZE = 0.12;
/** Px. */
const POINT_SIZE = 3;
const GRID_LINES = 20;

/** About what the view turns, and how far it reaches. */
export interface RoomExtent {
  readonly middle: Vector3;
  readonly radius: number;
}

/** Points and ways of the camera, without what lies far off. */
export function extentOf(file: CameraFile): RoomExtent {
  const all = [...file.points.map((p) => p.position), ...file.frames.map((f) => f.position)];
  const middle = new Vector3(
    ...([0, 1, 2].map((k) =>
      quantile(
        all.map((p) => p[k]!),
        0.5,
      ),
    ) as [number, number, number]),
  );
  const away = all.map((p) => middle.distanceTo(new Vector3(...p)));
  return { middle, radius: Math.max(1e-3, quantile(away, TAKEN_IN)) };
}

const geometryOf = (numbers: readonly number[]): BufferGeometry =>
  new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(numbers), 3));

function cloudOf({ points }: CameraFile, doubtful: number, colours: RoomColours): Points {
  const [sure, unsure] = [new Color(colours.point), new Color(colours.doubtful)];
  const cloud = geometryOf(points.flatMap((p) => [...p.position]));
  const tints = points.flatMap((p) => (p.error > doubtful ? unsure : sure).toArray());
  cloud.setAttribute('color', new BufferAttribute(Float32Array.from(tints), 3));
  return new Points(cloud, new PointsMaterial({ size: POINT_SIZE, sizeAttenuation: false, vertexColors: true }));
}

/** The camera as a pyramid that opens as wide as its picture. */
function pyramidOf({ plate, frames }: CameraFile, size: number, colour: string): LineSegments {
  const focal = frames[0]!.focal;
  const [w, h] = [(size * plate.width) / 2 / focal, (size * plate.height) / 2 / focal];
  const corners = [
    [-w, h],
    [w, h],
    [w, -h],
    [-w, -h],
  ] as const;
  const lines = corners.flatMap(([x, y], k) => {
    const [nx, ny] = corners[(k + 1) % 4]!;
    return [0, 0, 0, x, y, -size, x, y, -size, nx, ny, -size];
  });
  // Which way is up.
  const roof = [-w / 2, h * 1.1, -size, 0, h * 1.5, -size, 0, h * 1.5, -size, w / 2, h * 1.1, -size];
  return new LineSegments(geometryOf([...lines, ...roof]), new LineBasicMaterial({ color: colour }));
}

function planeOf(corners: readonly (readonly number[])[], colour: string): Group {
  const shape = geometryOf(corners.flatMap((c) => [...c])).setIndex([0, 1, 2, 0, 2, 3]);
  const fill = new MeshBasicMaterial({ color: colour, side: DoubleSide, transparent: true, opacity: 0.35 });
  const rim = geometryOf([...corners, corners[0]!].flatMap((c) => [...c]));
  return new Group().add(new Mesh(shape, fill), new Line(rim, new LineBasicMaterial({ color: colour })));
}

export interface Room {
  readonly group: Group;
  readonly extent: RoomExtent;
  /** Puts the camera where it stands on a frame. @returns whether it has a place there */
  readonly show: (frame: number) => boolean;
}

/** @param doubtful px, error of points that are drawn as doubtful @param hasGround the ground lies level at height 0 */
export function roomOf(file: CameraFile, doubtful: number, hasGround: boolean, colours: RoomColours): Room {
  const extent = extentOf(file);
  const group = new Group();
  const way = geometryOf(file.frames.flatMap((f) => [...f.position]));
  const pyramid = pyramidOf(file, CAMERA_SIZE * extent.radius, colours.camera);
  group.add(cloudOf(file, doubtful, colours), new Line(way, new LineBasicMaterial({ color: colours.way })), pyramid);
  file.planes.forEach((p, i) => group.add(planeOf(p.corners, colours.planes[i % colours.planes.length]!)));
  if (hasGround) {
    const grid = new GridHelper(2 * extent.radius, GRID_LINES, colours.ground, colours.ground);
    grid.position.set(extent.middle.x, 0, extent.middle.z);
    group.add(grid);
  }
  const by = new Map(file.frames.map((f) => [f.frame, f]));
  const show = (frame: number): boolean => {
    const at = by.get(frame);
    pyramid.visible = at !== undefined;
    if (!at) return false;
    pyramid.position.set(...at.position);
    pyramid.quaternion.copy(new Quaternion(...at.rotation));
    return true;
  };
  return { group, extent, show };
}

/** Lets go of what the graphics card holds. */
export function disposeRoom({ group }: Room): void {
  group.traverse((o) => {
    const { geometry, material } = o as Partial<Mesh>;
    geometry?.dispose();
    for (const m of [material ?? []].flat()) m.dispose();
  });
}
