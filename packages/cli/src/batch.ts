import type { BatchFile } from '@yarlop/contracts/validate';
import { FOLLOWER_VERSION } from '@yarlop/core/follow/follower';
import { InputError } from '@yarlop/pipeline/pipeline-error';
import { parseScreen } from '@yarlop/pipeline/screen-file';
import { readJson } from '@yarlop/pipeline/track-file';
import { stat } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { readBatch, readProject } from './batch/files';
import { stepsOf } from './batch/plan';
import { runSteps } from './batch/run-steps';
import { statusOf } from './status';
import { VERSION } from './version';

export interface BatchOptions {
  progress?: boolean;
  list?: boolean;
}

/** @throws InputError for a plate or fill that is not there; patterns are looked into when they are opened */
async function assertThere(file: BatchFile, folder: string): Promise<void> {
  const fills = (file.fills ?? []).flatMap(({ by }) => (typeof by === 'string' ? [by] : Object.values(by)));
  for (const path of [...file.shots.map((s) => s.plate), ...fills]) {
    if (path.includes('%')) continue;
    const isThere = await stat(resolve(folder, path)).then(
      () => true,
      () => false,
    );
    if (!isThere) throw new InputError(`${path} does not exist beside the file; check the path.`);
  }
}

async function runFile(path: string, file: BatchFile, options: BatchOptions): Promise<number> {
  const folder = dirname(resolve(path));
  await assertThere(file, folder);
  const paths = [...new Set(file.shots.flatMap((s) => s.screens.map((p) => resolve(folder, p))))];
  const screens = new Map(await Promise.all(paths.map(async (p) => [p, parseScreen(await readJson(p), p)] as const)));
  const steps = stepsOf({ file, folder, screens, progress: options.progress ?? false });
  if (!options.list)
    return runSteps(steps, { out: resolve(folder, file.out), version: `${VERSION} ${FOLLOWER_VERSION}`, statusOf });
  process.stdout.write(`${steps.map((s) => `${s.id}\n`).join('')}`);
  return 0;
}

/** Shots by fills by formats. */
export async function batchCommand(path: string, options: BatchOptions): Promise<number> {
  return runFile(path, await readBatch(path), options);
}

/** One shot from its plate to what is delivered. */
export async function projectCommand(path: string, options: BatchOptions): Promise<number> {
  return runFile(path, await readProject(path), options);
}
