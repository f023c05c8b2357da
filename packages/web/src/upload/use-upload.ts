/** Files to the server in pieces, resumable: pause, go on after a lost connection, cancel. */
import { computed, ref, shallowRef } from 'vue';
import { Upload } from 'tus-js-client';

export interface Finished {
  readonly upload: string;
  readonly fileName: string;
  readonly files?: readonly { readonly name: string; readonly size: number }[];
}

/** Bytes that are sent at once: what a broken line loses at the most. */
const PIECE = 8 * 1024 * 1024;

export function useUpload(done: (f: Finished) => Promise<void>) {
  const state = ref<'idle' | 'sending' | 'paused' | 'taking'>('idle');
  const sent = ref(0);
  const total = ref(0);
  const problem = ref('');
  /** clips and pictures that come after the one on its way */
  const waiting = shallowRef<readonly (readonly File[])[]>([]);
  const upload = shallowRef<Upload | null>(null);
  const share = computed(() => (total.value > 0 ? sent.value / total.value : 0));

  /** Clips and pictures, one after the other, after those on their way. @param groups each with the files that it is made of */
  function send(groups: readonly (readonly File[])[]): void {
    waiting.value = [...waiting.value, ...groups];
    if (state.value !== 'idle') return;
    problem.value = '';
    next();
  }
  function next(): void {
    const [files, ...rest] = waiting.value;
    waiting.value = rest;
    state.value = 'idle';
    if (files) sendOne(files);
  }
  /** What goes wrong with one keeps none of the others. */
  function refuse(sentence: string): void {
    problem.value = problem.value ? `${problem.value} ${sentence}` : sentence;
  }

  /** Several files go as one run of bytes with a list of names and sizes: one upload, not thousands. */
  function sendOne(files: readonly File[]): void {
    const sequence = files.length > 1;
    const blob = sequence ? new Blob([...files]) : files[0]!;
    if (blob.size === 0) {
      refuse(`"${files[0]!.name}" is empty (0 bytes); copy or export it again.`);
      return next();
    }
    const fileName = sequence ? files[0]!.name.replace(/\d+(?=\D*$)/, '#') : files[0]!.name;
    [sent.value, total.value, state.value] = [0, blob.size, 'sending'];
    const u = new Upload(blob, {
      endpoint: '/api/uploads',
      chunkSize: PIECE,
      retryDelays: [300, 1000, 3000, 5000, 10000, 20000],
      removeFingerprintOnSuccess: true,
      metadata: { name: fileName },
      fingerprint: async () =>
        `yarlop-${fileName}-${blob.size}-${files.map((f) => f.lastModified).reduce((a, b) => (a * 31 + b) % 2 ** 40, 7)}`,
      onProgress: (n) => (sent.value = n),
      onError: (e) => {
        state.value = 'paused';
        const body = (e as { originalResponse?: { getBody(): string } | null }).originalResponse?.getBody();
        problem.value = body || 'The connection was lost; what arrived is kept. Go on when the server answers.';
      },
      onSuccess: () => {
        state.value = 'taking';
        const id = new URL(u.url!, location.href).pathname.split('/').at(-1)!;
        done({
          upload: id,
          fileName,
          ...(sequence ? { files: files.map((f) => ({ name: f.name, size: f.size })) } : {}),
        })
          .catch((e: Error) => refuse(e.message))
          .finally(next);
      },
    });
    upload.value = u;
    void u.findPreviousUploads().then((previous) => {
      if (previous[0]) u.resumeFromPreviousUpload(previous[0]);
      u.start();
    });
  }
  async function pause(): Promise<void> {
    await upload.value?.abort();
    state.value = 'paused';
  }
  function go(): void {
    problem.value = '';
    state.value = 'sending';
    upload.value?.start();
  }
  async function cancel(): Promise<void> {
    await upload.value?.abort(true).catch(() => {});
    waiting.value = [];
    state.value = 'idle';
    problem.value = '';
  }
  return { state, share, sent, total, problem, waiting, send, pause, go, cancel };
}
