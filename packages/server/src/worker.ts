/** Runs one job in a worker thread: the heavy computation, away from the server's own thread. */
import { CoreError } from '@yarlop/core/errors';
import { ContractError } from '@yarlop/contracts/validate';
import { MediaError } from '@yarlop/media/media-error';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { giveWay } from './give-way';
import { runCamera } from './run-camera';
import { runCutOuts } from './run-cut-outs';
import { runDeliver } from './run-deliver';
import { runFollow } from './run-follow';
import { runIngest } from './run-ingest';
import { runMatch } from './run-match';
import { runFlat, runProve, runSlip, runSnap, runSpot } from './run-on-luma';
import { runPropose, runStill } from './run-still';
import type { Call, Line, Outcome, Task } from './worker-protocol';

type Run<K extends Task['kind']> = (task: Extract<Task, { kind: K }>, line: Line) => Promise<Outcome>;

/** How each kind of job is run; a new kind is one line here and one file beside it. */
const RUNS: { readonly [K in Task['kind']]: Run<K> } = {
  ingest: runIngest,
  follow: runFollow,
  camera: runCamera,
  prove: runProve,
  deliver: runDeliver,
  still: runStill,
  propose: runPropose,
  'cut-outs': runCutOuts,
  spot: runSpot,
  slip: runSlip,
  match: runMatch,
  snap: runSnap,
  flat: runFlat,
};

function run<K extends Task['kind']>(kind: K, task: Task, line: Line): Promise<Outcome> {
  return RUNS[kind](task as Extract<Task, { kind: K }>, line);
}

/** What is told of a job that threw: what was wrong with what it was given, or what broke. */
function outcomeOf(e: unknown): Outcome {
  if (e instanceof MediaError && e.code === 'cancelled') return { kind: 'cancelled' };
  const { code, message } = e as NodeJS.ErrnoException;
  if (e instanceof CoreError) return { kind: 'failed', code: e.code, message };
  if (e instanceof MediaError || e instanceof InputError || e instanceof ContractError)
    return { kind: 'failed', message };
  if (code === 'ENOSPC') return { kind: 'failed', message: 'The disk is full; free some space and try again.' };
  return { kind: 'failed', message: `The job failed unexpectedly (${message}).` };
}

giveWay();

export default async function work({ task, port, cancel }: Call): Promise<Outcome> {
  const flag = new Int32Array(cancel);
  const line: Line = { say: (r) => port.postMessage(r), cancelled: () => Atomics.load(flag, 0) === 1 };
  try {
    return await run(task.kind, task, line);
  } catch (e) {
    return outcomeOf(e);
  } finally {
    line.say({ type: 'end' });
    port.close();
  }
}
