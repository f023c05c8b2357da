/**
 * Runs steps in order, and takes up where it was cut off: what was done with the same files and settings, and is still
 * there, is not done again.
 */
import { writeWhole } from '@yarlop/pipeline/write-whole';
import { createHash } from 'node:crypto';
import { readFile, readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { interruption } from '../interruption';
import type { Step } from './plan';

/** What was done: by step, of what it was made, and its exit status. */
type Done = Record<string, { readonly of: string; readonly status: number }>;

/** Beside the outputs. */
const STATE = 'yarlop-state.json';
/** Bytes; what is smaller is told apart by what it holds, and anything else by its size and time. */
const SMALL = 4 * 1024 * 1024;

const isMissing = (e: NodeJS.ErrnoException): boolean => e.code === 'ENOENT' || e.code === 'ENOTDIR';

/** Files that a path stands for: itself, a numbered sequence, or what a folder holds. */
async function filesAt(path: string): Promise<string[]> {
  const pattern = /^(.*)%0?\d*d(.*)$/.exec(basename(path));
  const folder = pattern ? dirname(path) : path;
  const isFolder = await stat(folder).then(
    (s) => s.isDirectory(),
    () => false,
  );
  if (!isFolder) return [path];
  const names = (await readdir(folder)).sort();
  if (!pattern) return names.map((n) => join(folder, n));
  const [, before, after] = pattern as unknown as [string, string, string];
  return names.filter((n) => n.startsWith(before) && n.endsWith(after)).map((n) => join(folder, n));
}

/** What tells a file from another one; null where it is not there. */
async function fileMark(path: string): Promise<string | null> {
  try {
    const { size, mtimeMs } = await stat(path);
    if (size > SMALL) return `${size} ${mtimeMs}`;
    return createHash('sha256')
      .update(await readFile(path))
      .digest('hex');
  } catch (e) {
    if (isMissing(e as NodeJS.ErrnoException)) return null;
    throw e;
  }
}

async function marksOf(path: string): Promise<(string | null)[]> {
  const files = await filesAt(path);
  return files.length === 0 ? [null] : Promise.all(files.map(fileMark));
}

async function identityOf(step: Step, version: string): Promise<string> {
  const inputs = await Promise.all(step.inputs.map(async (p) => [p, await marksOf(p)]));
  return createHash('sha256')
    .update(JSON.stringify([version, step.id, step.settings, inputs]))
    .digest('hex');
}

async function isThere(step: Step): Promise<boolean> {
  const marks = await Promise.all(step.outputs.map(marksOf));
  return marks.flat().every((m) => m !== null);
}

async function readState(path: string): Promise<Done> {
  try {
    return (JSON.parse(await readFile(path, 'utf8')) as { done: Done }).done;
  } catch {
    // A state that is lost or broken costs time alone: everything is made anew.
    return {};
  }
}

/** The exit status of a batch: what failed weighs more than what was lost. */
function worse(a: number, b: number): number {
  const order = [0, 3, 2, 1, 130];
  return order.indexOf(a) >= order.indexOf(b) ? a : b;
}

/** @param out folder of the outputs @param statusOf of an error @returns an exit status */
export async function runSteps(
  steps: readonly Step[],
  {
    out,
    version,
    statusOf,
  }: { readonly out: string; readonly version: string; readonly statusOf: (e: unknown) => number },
): Promise<number> {
  const state = join(out, STATE);
  const done = await readState(state);
  /** outputs that are not there since what makes them failed */
  const missing = new Set<string>();
  let status = 0;
  for (const [i, step] of steps.entries()) {
    const say = (what: string): void =>
      void process.stderr.write(`[${i + 1} of ${steps.length}] ${step.id}: ${what}\n`);
    if (interruption.requested) return 130;
    if (step.inputs.some((p) => missing.has(p))) {
      say('left out, since what it needs failed');
      step.outputs.forEach((p) => missing.add(p));
      continue;
    }
    const of = await identityOf(step, version);
    const known = done[step.id];
    if (known?.of === of && (await isThere(step))) {
      say('is there');
      status = worse(status, known.status);
      continue;
    }
    say('begins');
    try {
      const own = await step.run();
      if (own === 130) return 130;
      status = worse(status, own);
      done[step.id] = { of, status: own };
      await writeWhole(state, `${JSON.stringify({ format: 'yarlop-state', version: 1, done }, null, 2)}\n`);
      say('done');
    } catch (e) {
      const own = statusOf(e);
      if (own === 130) return 130;
      status = worse(status, 1);
      step.outputs.forEach((p) => missing.add(p));
      say(`failed: ${(e as Error).message.split('\n')[0]}`);
    }
  }
  return status;
}
