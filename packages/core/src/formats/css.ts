/**
 * The track for web pages: an element of the content's size is carried onto the plate by `matrix3d`, one stepped
 * keyframe a frame. The page drives it by frame number: a paused animation whose negative delay is the frame's time.
 * Source: W3C CSS Transforms Module Level 2, section 13 (matrix3d, column by column); CSS Animations Level 1
 * (step-end).
 */
import { unitSquareToQuad } from '../geometry/homography';
import { multiply, scaling } from '../geometry/matrix3';
import type { Quad } from '../geometry/quad';
import type { ScreenTrack, Track } from '../track';
import { escaped, inComment } from './text';

export interface ContentSize {
  readonly width: number;
  readonly height: number;
}

const text = (v: number): string => {
  const s = v.toPrecision(12);
  return String(Number(s));
};

/** The transform that takes an element of this size, origin at its top-left corner, onto the corners. */
export function matrix3d(corners: Quad, content: ContentSize, scale: readonly [number, number] = [1, 1]): string {
  const raw = multiply(
    scaling(scale[0], scale[1]),
    multiply(unitSquareToQuad(corners), scaling(1 / content.width, 1 / content.height)),
  );
  const h = raw.map((v) => v / raw[8]!);
  return `matrix3d(${[h[0]!, h[3]!, 0, h[6]!, h[1]!, h[4]!, 0, h[7]!, 0, 0, 1, 0, h[2]!, h[5]!, 0, h[8]!].map(text).join(', ')})`;
}

/** A Screen's name as the name of a CSS class. */
export const classOf = (name: string): string =>
  `screen-${
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'one'
  }`;

function rules(track: Track, s: ScreenTrack, content: ContentSize, size: readonly [number, number]): string {
  const { plate } = track;
  const n = plate.frameCount;
  const name = classOf(s.name);
  const seconds = (n * plate.frameRate[1]) / plate.frameRate[0];
  const k: [number, number] = [size[0] / plate.width, size[1] / plate.height];
  const at = (f: number): string => `${Number(((100 * f) / n).toFixed(7))}%`;
  const first = s.frames[0]!;
  const last = s.frames.at(-1)!;
  const hidden = 'visibility: hidden;';
  const frames = s.frames.map(
    (f) => `  ${at(f.frame)} { transform: ${matrix3d(f.corners, content, k)}; visibility: visible; }`,
  );
  if (first.frame > 0) frames.unshift(`  0% { transform: ${matrix3d(first.corners, content, k)}; ${hidden} }`);
  frames.push(
    last.frame < n - 1
      ? `  ${at(last.frame + 1)}, 100% { transform: ${matrix3d(last.corners, content, k)}; ${hidden} }`
      : `  100% { transform: ${matrix3d(last.corners, content, k)}; visibility: visible; }`,
  );
  return `/* ${inComment(s.name)}: content ${content.width}x${content.height} px; ${n} frames at ${plate.frameRate.join('/')} a second */\n.${name} {\n  position: absolute; left: 0; top: 0; width: ${content.width}px; height: ${content.height}px;\n  transform-origin: 0 0; backface-visibility: visible;\n  animation: ${name} ${text(seconds)}s step-end infinite;\n}\n@keyframes ${name} {\n${frames.join('\n')}\n}\n`;
}

/** @param size of the box over which the plate is shown, CSS px; the plate's own when left out */
export function writeCss(
  track: Track,
  contentOf: (screen: ScreenTrack) => ContentSize,
  size: readonly [number, number] = [track.plate.width, track.plate.height],
): string {
  const { plate } = track;
  return `/* Yarlop track as CSS keyframes, version 1. Plate: ${inComment(plate.name)}, ${plate.width}x${plate.height}.\n   Put each element into a box of ${size[0]}x${size[1]} CSS px that shows the plate (position: relative; overflow: hidden).\n   Keyframe k holds from frame k to the next. To show frame k exactly: animation-play-state: paused; animation-delay: calc(-1s * (k + 0.5) * ${plate.frameRate[1]} / ${plate.frameRate[0]}). */\n${track.screens
    .filter((s) => s.frames.length > 0)
    .map((s) => rules(track, s, contentOf(s), size))
    .join('\n')}`;
}

export interface PageParts {
  /** address of the plate as a clip or a picture (a data address keeps the page whole); null shows a grey box */
  readonly plate: { readonly url: string; readonly kind: 'video' | 'picture' } | null;
  readonly fills: ReadonlyMap<string, { readonly url: string; readonly kind: 'video' | 'picture' }>;
  /** frame of the plate that the plate's clip begins with */
  readonly from?: number;
}

const media = (m: { url: string; kind: string } | null | undefined, name: string): string => {
  if (!m) return `<div class="${name} empty"></div>`;
  if (m.kind === 'video')
    return `<video class="${name}" src="${escaped(m.url)}" muted playsinline preload="auto"></video>`;
  return `<img class="${name}" src="${escaped(m.url)}" alt="">`;
};

/** One page that plays the fills over the plate, by frame number. `#frame=N` in its address shows frame N. */
export function writeHtml(track: Track, contentOf: (screen: ScreenTrack) => ContentSize, parts: PageParts): string {
  const { plate } = track;
  const screens = track.screens.filter((s) => s.frames.length > 0);
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escaped(plate.name)}</title>
<style>
body { margin: 0; background: #1b1f1e; color: #e9e4d6; font: 14px system-ui, sans-serif; }
.box { position: relative; overflow: hidden; width: ${plate.width}px; height: ${plate.height}px; transform-origin: 0 0; background: #808080; }
.box > .plate { position: absolute; inset: 0; width: 100%; height: 100%; }
.empty { background: repeating-linear-gradient(45deg, #4b5a57 0 24px, #3b4846 24px 48px); }
.bar { display: flex; gap: 8px; align-items: center; padding: 6px; }
.bar input { flex: 1; }
${writeCss(track, contentOf)}
.box * { animation-play-state: paused !important; animation-delay: calc(-1s * (var(--frame) + 0.5) * ${plate.frameRate[1]} / ${plate.frameRate[0]}) !important; }
</style>
<div class="box" id="box" style="--frame: 0">
${media(parts.plate, 'plate')}
${screens.map((s) => media(parts.fills.get(s.name), classOf(s.name))).join('\n')}
</div>
<div class="bar"><button id="play" type="button">Play</button><input id="frame" type="range" min="0" max="${plate.frameCount - 1}" value="0" aria-label="Frame"><output id="label">${plate.firstFrame}</output></div>
<script>
const rate = ${plate.frameRate[0]} / ${plate.frameRate[1]}, count = ${plate.frameCount}, first = ${plate.firstFrame}, from = ${parts.from ?? 0};
const box = document.getElementById('box'), slider = document.getElementById('frame'), label = document.getElementById('label'), button = document.getElementById('play'), clips = [...document.querySelectorAll('video')], plate = document.querySelector('video.plate');
let frame = 0, playing = false, began = 0;
function seek(clip, n) { const t = (n + 0.5) / rate, end = clip.duration || 0; clip.currentTime = clip === plate ? t : end > 0 ? t % end : 0; }
/** Shows a frame; settles when the plate's picture stands there. */
function show(n) {
  frame = Math.min(count - 1, Math.max(0, n));
  box.style.setProperty('--frame', frame);
  slider.value = frame; label.textContent = first + frame;
  return Promise.all(clips.map((clip) => new Promise((done) => { clip.addEventListener('seeked', done, { once: true }); seek(clip, clip === plate ? frame - from : frame); })));
}
window.showFrame = show;
async function run() {
  while (playing) {
    const due = Math.floor(((performance.now() - began) / 1000) * rate) % count;
    await show(due);
    await new Promise(requestAnimationFrame);
  }
}
button.onclick = () => { playing = !playing; button.textContent = playing ? 'Stop' : 'Play'; began = performance.now() - (frame / rate) * 1000; run(); };
slider.oninput = () => { playing = false; button.textContent = 'Play'; show(Number(slider.value)); };
addEventListener('hashchange', () => show(Number(new URLSearchParams(location.hash.slice(1)).get('frame')) || 0));
show(Number(new URLSearchParams(location.hash.slice(1)).get('frame')) || 0);
</script>
</html>
`;
}
