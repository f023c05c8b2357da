<script setup lang="ts">
/** The scene from outside: turned by the mouse and by keys, with the camera where it stands on the frame shown. */
import { onUnmounted, ref, shallowRef, watch, watchEffect } from 'vue';
import { useElementSize } from '@vueuse/core';
import { PerspectiveCamera, Scene, Vector3, WebGLRenderer } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { CameraFile } from '@yarlop/core/camera/camera-file';
import { oriented } from '@yarlop/core/camera/oriented';
import { sentence } from '../api';
import { hueOf } from '../shared/screen-look';
import { useCamera } from '../stores/camera';
import { usePlayhead } from '../stores/playhead';
import { useShot } from '../stores/shot';
import { useTracks } from '../stores/tracks';
import type { Room } from './room-scene';
import { disposeRoom, roomOf } from './room-scene';

/** Radians that an arrow key turns the view by. */
const KEY_TURN = 0.09;
/** Times that plus and minus go nearer. */
const KEY_NEARER = 1.15;
/** Degrees; angle of this view. */
const ANGLE = 40;
/** Radii of the scene that it is looked at from. By trial. */
const AWAY = 2.6;

const camera = useCamera();
const playhead = usePlayhead();
const store = useShot();
const tracks = useTracks();
const holder = ref<HTMLElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const { width, height } = useElementSize(holder);
const problem = ref('');
const file = shallowRef<CameraFile | null>(null);
const hasPlace = ref(true);
const eye = new PerspectiveCamera(ANGLE, 1, 0.001, 10_000);
const scene = new Scene();
let renderer: WebGLRenderer | null = null;
let controls: OrbitControls | null = null;
let room: Room | null = null;

/** In the person's world, with the planes of Screens. @throws CoreError for a world whose points are gone */
function worldCamera(): CameraFile | null {
  if (!camera.solved) return null;
  const planes = store.screens.flatMap((s) => {
    const corners = tracks.tracks.get(s.id)?.scene?.corners;
    return corners ? [{ screen: s.recipe.name, corners }] : [];
  });
  return oriented({ ...camera.solved.file, planes }, camera.settings.world ?? {});
}
watchEffect(() => {
  problem.value = '';
  try {
    file.value = worldCamera();
  } catch (e) {
    file.value = null;
    problem.value = sentence(e);
  }
});

function begin(): boolean {
  if (renderer) return true;
  try {
    renderer = new WebGLRenderer({ canvas: canvas.value!, antialias: true, alpha: true, preserveDrawingBuffer: true });
  } catch {
    problem.value =
      'This browser draws no 3D here (WebGL is missing); save the camera as glTF and look at it elsewhere.';
    return false;
  }
  renderer.setPixelRatio(window.devicePixelRatio);
  controls = new OrbitControls(eye, canvas.value!);
  controls.addEventListener('change', draw);
  return true;
}

function draw(): void {
  if (!renderer || width.value < 2 || height.value < 2) return;
  renderer.setSize(width.value, height.value, false);
  eye.aspect = width.value / height.value;
  eye.updateProjectionMatrix();
  renderer.render(scene, eye);
}

/** From behind the camera's way and above it. */
function lookFromBehind(): void {
  if (!room || !controls || !file.value) return;
  const { middle, radius } = room.extent;
  const first = file.value.frames[Math.floor(file.value.frames.length / 2)]!;
  const back = new Vector3(...first.position).sub(middle);
  const from = back.lengthSq() > 0 ? back.normalize() : new Vector3(0, 0, 1);
  eye.position.copy(middle).addScaledVector(from.add(new Vector3(0.35, 0.55, 0)).normalize(), AWAY * radius);
  controls.target.copy(middle);
  controls.update();
  draw();
}

watch(
  [file, canvas],
  ([now, drawn]) => {
    if (room) {
      scene.remove(room.group);
      disposeRoom(room);
      room = null;
    }
    if (!now || !drawn || !begin()) return;
    const css = getComputedStyle(document.documentElement);
    const colour = (name: string): string => css.getPropertyValue(name).trim();
    const names = store.screens.map((s) => s.recipe.name);
    room = roomOf(now, camera.doubtful, !!camera.settings.world?.ground, {
      point: '#b9d2f2',
      doubtful: colour('--weak'),
      way: '#f6e7bd',
      camera: colour('--brass'),
      ground: '#4a564f',
      planes: now.planes.map((p) => hueOf(Math.max(0, names.indexOf(p.screen)))),
    });
    scene.add(room.group);
    hasPlace.value = room.show(playhead.frame);
    lookFromBehind();
  },
  { flush: 'post' },
);
watch([width, height], draw);
watch(
  () => playhead.frame,
  (frame) => {
    if (!room) return;
    hasPlace.value = room.show(frame);
    draw();
  },
);
onUnmounted(() => {
  if (room) disposeRoom(room);
  controls?.dispose();
  renderer?.dispose();
});

/** Turned about the middle of the scene, or nearer to it. */
function turn(about: number, over: number, nearer = 1): void {
  if (!controls) return;
  const arm = eye.position.clone().sub(controls.target);
  const flat = Math.hypot(arm.x, arm.z);
  const length = arm.length() / nearer;
  const sideways = Math.atan2(arm.x, arm.z) + about;
  const up = Math.min(1.5, Math.max(-1.5, Math.atan2(arm.y, flat) + over));
  eye.position
    .set(Math.sin(sideways) * Math.cos(up), Math.sin(up), Math.cos(sideways) * Math.cos(up))
    .multiplyScalar(length)
    .add(controls.target);
  controls.update();
  draw();
}
const KEYS: Readonly<Record<string, () => void>> = {
  ArrowLeft: () => turn(-KEY_TURN, 0),
  ArrowRight: () => turn(KEY_TURN, 0),
  ArrowUp: () => turn(0, KEY_TURN),
  ArrowDown: () => turn(0, -KEY_TURN),
  '+': () => turn(0, 0, KEY_NEARER),
  '-': () => turn(0, 0, 1 / KEY_NEARER),
  Home: lookFromBehind,
};
function press(e: KeyboardEvent): void {
  const act = KEYS[e.key];
  if (!act) return;
  e.preventDefault();
  e.stopPropagation();
  act();
}
</script>

<template>
  <div
    ref="holder"
    class="room"
    tabindex="0"
    role="application"
    aria-label="The scene in 3D: arrow keys turn it, plus and minus go nearer and farther, Home looks from behind the camera"
    data-test="room"
    :data-planes="file?.planes.length ?? 0"
    :data-points="file?.points.length ?? 0"
    @keydown="press"
  >
    <canvas v-show="file && !problem" ref="canvas" />
    <p v-if="problem" class="said" role="alert">{{ problem }}</p>
    <p v-else-if="!camera.solved" class="said" data-test="no-room">
      The shot's camera is not solved: Follow, under Camera, does it.
    </p>
    <p v-else class="note">
      Drag to turn, wheel to go nearer, right button to shift. With the view taken: arrows, plus, minus, Home.
      <template v-if="!hasPlace"> The camera has no place on this frame.</template>
    </p>
  </div>
</template>

<style scoped>
.room {
  position: absolute;
  inset: 0;
}
canvas {
  width: 100%;
  height: 100%;
  display: block;
}
.said {
  position: absolute;
  inset: 0;
  margin: auto;
  height: fit-content;
  text-align: center;
  padding: 0 3rem;
}
.note {
  position: absolute;
  left: 10px;
  bottom: 6px;
  margin: 0;
  font-size: 0.78rem;
  color: #c9c7bb;
  pointer-events: none;
}
</style>
