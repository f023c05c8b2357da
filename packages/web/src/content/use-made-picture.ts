/** The picture of made-up content on a frame, made in a thread of its own: always the newest that was asked for. */
import { fillPicture } from '@yarlop/core/dress/fill/fill-time';
import type { MadeFill } from '@yarlop/core/dress/content/made-fill';
import { wrap } from 'comlink';
import { onScopeDispose, ref, shallowRef, watch } from 'vue';
import { sentence } from '../api';
import type { RenderService } from '../pictures/render.worker';
import type { MadeRequest, PictureFill } from '../shared/picture-request';
import { DragSize } from '../shared/drag-size';
import { useMedia } from '../stores/media';

/** Frames a second of its clips, where no plate says otherwise. */
const RATE = [24, 1] as const;

export interface AskedPicture {
  readonly document: MadeFill;
  readonly frame: number;
  /** px */
  readonly size: readonly [number, number];
  readonly isDragged: boolean;
}

/** Share of its px that is made while something is dragged, where that keeps up with the hand. By trial. */
const DRAGGED = 0.5;

/** A file of the library on a frame; null where it is not read in yet. */
function pictureAt(hash: string, frame: number, start: number): PictureFill | null {
  const m = useMedia().byHash.get(hash);
  if (!m || m.state !== 'ready') return null;
  const at = fillPicture({ start }, frame, m.frameCount, m.probe.frameRate, RATE);
  return { url: `/api/media/${hash}/frames/${at}.png`, reading: {} };
}

/** @param share of the size that is asked for */
function requestFor({ document, frame, size: [width, height] }: AskedPicture, share: number): MadeRequest {
  const size = [Math.round(width * share), Math.round(height * share)] as const;
  const layers = (document.layers ?? []).map((l) =>
    l.kind === 'picture' ? pictureAt(l.media, frame, l.start ?? 0) : null,
  );
  return { made: document, frame, size, background: null, foreground: null, layers, curve: 'srgb', gamma: [1, 1, 1] };
}

export function useMadePicture(asked: () => AskedPicture | null) {
  const worker = new Worker(new URL('../pictures/render.worker.ts', import.meta.url), { type: 'module' });
  const remote = wrap<RenderService>(worker);
  const picture = shallowRef<ImageBitmap | null>(null);
  /** the frame that it shows */
  const frame = ref<number | null>(null);
  const problem = ref('');
  const dragSize = new DragSize();
  /** whether it is the picture that is asked for, and no earlier one */
  const isNewest = ref(false);
  let isBusy = false;
  let next: AskedPicture | null = null;

  async function make(): Promise<void> {
    if (isBusy || !next) return;
    const now = next;
    [isBusy, next] = [true, null];
    try {
      const began = performance.now();
      const share = now.isDragged ? DRAGGED * dragSize.share : 1;
      const made = await remote.made(JSON.parse(JSON.stringify(requestFor(now, share))) as MadeRequest);
      picture.value?.close();
      picture.value = made;
      [frame.value, problem.value] = [now.frame, ''];
      if (now.isDragged) dragSize.made(performance.now() - began);
    } catch (e) {
      problem.value = sentence(e);
    }
    isBusy = false;
    isNewest.value = next === null;
    void make();
  }
  watch(
    asked,
    (a) => {
      next = a;
      isNewest.value = false;
      void make();
    },
    { immediate: true },
  );
  onScopeDispose(() => {
    worker.terminate();
    picture.value?.close();
  });
  return { picture, frame, problem, isNewest };
}
