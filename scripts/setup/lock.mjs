/** One set-up at a time in a data folder: a file with the owner's process id and when that process began. */
import { existsSync, linkSync, mkdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SetupError, say } from './fail.mjs';

/** Bytes that packages, build and database take up the first time. */
const FIRST_START = 1.5 * 1024 ** 3;
/** Bytes without which the database cannot even be opened. */
const ANY_START = 64 * 1024 ** 2;

export function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (e) {
    return e.code === 'EPERM';
  }
}

/** The field of /proc/PID/stat that tells when a process began, counted behind its name: clock ticks since the machine started. */
const BEGAN = 19;

/** When a process began, as the kernel counts it; null where that is not told. Another one may have its number by now. */
function beganAt(pid) {
  const path = `/proc/${pid}/stat`;
  if (!existsSync(path)) return null;
  const text = readFileSync(path, 'utf8');
  return text.slice(text.lastIndexOf(')') + 2).split(' ')[BEGAN] ?? null;
}

/** Whether the process that wrote a lock is still there. @param text `PID WHEN-IT-BEGAN` */
function isHeld(text) {
  const [pid, began] = text.trim().split(' ');
  if (!(Number(pid) > 0) || !isAlive(Number(pid))) return false;
  return began === undefined || beganAt(Number(pid)) === began;
}

/** @throws SetupError where too little of the disk is free to start at all */
function assertRoom(data) {
  const { bavail, bsize } = statfsSync(data);
  const free = bavail * bsize;
  const isFirst = !existsSync(join(data, 'database'));
  const mb = Math.floor(free / 2 ** 20);
  if (free < (isFirst ? FIRST_START : ANY_START))
    throw new SetupError(
      `The disk of ${data} has ${mb} MB free; ${isFirst ? 'set-up needs about 1500' : 'starting needs 64'} MB. Free some space, or set YARLOP_DATA to another disk.`,
    );
  if (free < FIRST_START)
    say(`The disk of ${data} has ${mb} MB free. Delete what is not needed under "Space and bin".`);
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
  assertRoom(data);
  const path = join(data, 'start.lock');
  const own = `${path}.${process.pid}`;
  try {
    writeFileSync(own, `${process.pid} ${beganAt(process.pid) ?? ''}`);
  } catch (e) {
    throw new SetupError(
      `The data folder ${data} cannot be written to (${e.code}); give yourself the right to, or set YARLOP_DATA to another folder.`,
    );
  }
  try {
    for (let attempt = 0; ; attempt++) {
      try {
        linkSync(own, path);
        break;
      } catch (e) {
        if (e.code !== 'EEXIST') throw e;
        const owner = readFileSync(path, 'utf8');
        if (isHeld(owner) || attempt > 2)
          throw new SetupError(
            `Yarlop is being started or is running already from this data folder (process ${owner.split(' ')[0]}); use that one, or end it first.`,
          );
        rmSync(path, { force: true });
      }
    }
  } finally {
    rmSync(own, { force: true });
  }
  return () => rmSync(path, { force: true });
}
