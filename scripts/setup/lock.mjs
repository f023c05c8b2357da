/** One set-up at a time in a data folder: a file with the owner's process id. */
import { linkSync, mkdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SetupError } from './fail.mjs';

const LEAST_FREE = 1.5 * 1024 ** 3;

export function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (e) {
    return e.code === 'EPERM';
  }
}

/** @returns a function that lets go */
export function lock(data) {
  try {
    mkdirSync(data, { recursive: true, mode: 0o700 });
  } catch (e) {
    throw new SetupError(
      `The data folder ${data} cannot be made (${e.code}); set YARLOP_DATA to a folder that you may write to.`,
    );
  }
  const { bavail, bsize } = statfsSync(data);
  if (bavail * bsize < LEAST_FREE)
    throw new SetupError(
      `The disk of ${data} has ${Math.floor((bavail * bsize) / 2 ** 20)} MB free; set-up needs about 1500 MB. Free some space, or set YARLOP_DATA to another disk.`,
    );
  const path = join(data, 'start.lock');
  const own = `${path}.${process.pid}`;
  writeFileSync(own, String(process.pid));
  try {
    for (let attempt = 0; ; attempt++) {
      try {
        linkSync(own, path);
        break;
      } catch (e) {
        if (e.code !== 'EEXIST') throw e;
        const owner = Number(readFileSync(path, 'utf8'));
        if ((owner > 0 && isAlive(owner)) || attempt > 2)
          throw new SetupError(
            `Yarlop is being started or is running already from this data folder (process ${owner}); use that one, or end it first.`,
          );
        rmSync(path, { force: true });
      }
    }
  } finally {
    rmSync(own, { force: true });
  }
  return () => rmSync(path, { force: true });
}
