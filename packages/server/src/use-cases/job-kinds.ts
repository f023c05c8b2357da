/**
 * Every kind of job: whether it takes long, how it is made ready, what its end leaves behind and whom that is told. How it is
 * run stands beside the other work of the threads (`worker.ts`). A new kind is one entry in each.
 */
import type { Context } from '../context';
import type { Executor } from '../database';
import type { JobRow, MediaRow } from '../rows';
import * as deliveries from '../sql/deliveries';
import * as media from '../sql/media';
import * as proofs from '../sql/proofs';
import type { Outcome, ProveTask, Task } from '../worker-protocol';
import { cameraTask, storeCamera } from './camera';
import { deliverTask } from './deliver-task';
import { followTask } from './follow-task';
import { inputOf } from './job-input';
import { proofTask } from './proof';

type Kind = JobRow['kind'];
type OutcomeOf<K extends Kind> = Extract<Outcome, { kind: K }>;

/** A kind of job. */
interface JobKind<K extends Kind> {
  /** work of minutes and hours */
  readonly isLong: boolean;
  /** what a thread needs to do it. @throws ApiError with why it cannot be done any more */
  readonly ready: (c: Context, job: JobRow, row: MediaRow) => Promise<Task>;
  /** what a run that ended well leaves, under the job's lease */
  readonly store?: (t: Executor, job: JobRow, outcome: OutcomeOf<K>, task: Task | null) => Promise<unknown>;
  /** what a run that did not leaves, under the job's lease */
  readonly storeFailure?: (t: Executor, job: JobRow, message: string | null) => Promise<unknown>;
  /** tells pages what has changed beside the job */
  readonly tell?: (c: Context, job: JobRow, outcome: Outcome) => void;
}

const JOB_KINDS: { readonly [K in Kind]: JobKind<K> } = {
  ingest: {
    isLong: false,
    ready: ({ storage }, _job, row) =>
      Promise.resolve({
        kind: 'ingest',
        media: row,
        original: storage.original(row.hash),
        folder: storage.derived(row.hash),
      }),
    store: async (t, { mediaHash }, { frameCount, notes, damaged }) => {
      await t.run(media.mediaReady, [frameCount, JSON.stringify(notes), JSON.stringify(damaged), mediaHash]);
      await t.run(media.clampRanges, [frameCount - 1, frameCount - 1, mediaHash]);
    },
    storeFailure: (t, { mediaHash }, message) =>
      t.run(media.mediaFailed, [message ?? 'Bringing it in was cancelled.', mediaHash]),
    tell: (c, { mediaHash }) => c.events.emit('media', { hash: mediaHash! }),
  },
  follow: {
    isLong: true,
    ready: (c, job, row) => followTask(c, job, row, c.storage.derived(row.hash)),
  },
  camera: {
    isLong: true,
    ready: (c, job, row) => cameraTask(c, job, row, c.storage.derived(row.hash)),
    store: storeCamera,
    tell: (c, { shotId }, { kind }) => {
      if (kind === 'camera') c.events.emit('camera', { shotId: shotId! });
    },
  },
  prove: {
    isLong: false,
    ready: (c, job) => proofTask(c, job),
    store: (t, { id }, { frames }, task) =>
      t.run(proofs.putProof, [(task as ProveTask).identity, JSON.stringify(frames), id]),
  },
  deliver: {
    isLong: true,
    ready: (c, job, row) => deliverTask(c, job.shotId!, job.deliveryId!, inputOf('deliver', job), row),
    store: (t, { deliveryId }, { bytes, sha256 }) => t.run(deliveries.deliveryDone, [bytes, sha256, deliveryId]),
  },
};

/** One slot is kept free of them. */
export const LONG_KINDS = (Object.keys(JOB_KINDS) as Kind[]).filter((k) => JOB_KINDS[k].isLong);

/** The entry of a job's kind. */
export function kindOf(job: Pick<JobRow, 'kind'>): JobKind<Kind> {
  return JOB_KINDS[job.kind] as JobKind<Kind>;
}
