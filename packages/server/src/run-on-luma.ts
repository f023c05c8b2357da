/** Jobs that look at the luma of a plate that is read in: spots, slips, the glass, flat views. */
import { join } from 'node:path';
import { snapToGlass } from '@yarlop/core/pin/snap-to-glass';
import { flatten } from '@yarlop/core/proof/flat-view';
import type { ProofFrame } from '@yarlop/core/proof/proof-frame';
import { LUMA } from '@yarlop/media/ingest';
import { LumaFile } from '@yarlop/media/luma-file';
import type { ProvedFrame } from '@yarlop/pipeline/prove';
import { blursOn, likenessesOf, measureSlips, slipsOn } from '@yarlop/pipeline/prove';
import { followSpot } from '@yarlop/pipeline/spot-run';
import type { FlatTask, Line, Outcome, ProveTask, SlipTask, SnapTask, SpotTask, Task } from './worker-protocol';

/** Works on the luma of a plate that is read in, and closes it. */
async function onLuma<T>(
  { folder, media: { probe } }: { readonly folder: string; readonly media: Task['media'] },
  work: (luma: LumaFile) => Promise<T>,
): Promise<T> {
  const luma = await LumaFile.open(join(folder, LUMA), probe.width, probe.height, probe.bitDepth);
  try {
    return await work(luma);
  } finally {
    await luma.close();
  }
}

export function runSpot(task: SpotTask, line: Line): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    let done = 0;
    for await (const { frame, at, sigma, reason } of followSpot(task.recipe, task.spot, task.start, task.end, luma)) {
      line.say({ type: 'spot', done: ++done, word: { frame, at, sigma, reason } });
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'spot' };
  });
}

const round = (v: number): number => Number(v.toFixed(4));

function proofFrame({ frame, slips }: ProvedFrame): ProofFrame {
  return {
    frame,
    by: slips.map((s) => s.by && [round(s.by[0]), round(s.by[1])]),
    sigma: slips.map((s) => (Number.isFinite(s.sigma) ? round(s.sigma) : null)),
    likeness: slips.map((s) => (Number.isFinite(s.likeness) ? round(s.likeness) : 0)),
    reason: slips.map((s) => s.reason),
  };
}

export function runProve(task: ProveTask, line: Line): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    const frames: ProofFrame[] = [];
    for await (const f of measureSlips(task.path, task.pin, task.referenceFrame, task.likenesses, luma)) {
      frames.push(proofFrame(f));
      line.say({ type: 'progress', done: frames.length });
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'prove', frames, done: frames.length };
  });
}

export function runSlip(task: SlipTask): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    const i = task.path.findIndex((f) => f.frame === task.frame);
    const { frame, homography } = task.path[i]!;
    const looks = await likenessesOf(task.path, task.pin, task.referenceFrame, task.likenesses, luma);
    const slips = slipsOn(looks, await luma.read(frame), homography, task.pin, blursOn(task.path, task.pin, i));
    return { kind: 'slip', frame: proofFrame({ frame, slips, by: slips.map((s) => s.by) }) };
  });
}

export function runSnap({ frame, corners, exclude, lens, ...task }: SnapTask): Promise<Outcome> {
  const { width, height } = task.media.probe;
  return onLuma(task, async (luma) => ({
    kind: 'snap',
    snapped: snapToGlass(await luma.read(frame), corners, {
      ...(exclude ? { exclude } : {}),
      ...(lens === null ? {} : { lens: { radial: lens, width, height } }),
    }),
  }));
}

export function runFlat(task: FlatTask, line: Line): Promise<Outcome> {
  return onLuma(task, async (luma) => {
    for (const [i, corners] of task.corners.entries()) {
      const data = new Uint8ClampedArray(task.area.width * task.area.height);
      if (corners) flatten(await luma.read(task.from + i), task.area, corners, data);
      line.say({ type: 'pixels', done: i + 1, data });
      if (line.cancelled()) return { kind: 'cancelled' };
    }
    return { kind: 'flat' };
  });
}
