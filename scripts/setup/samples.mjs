/**
 * Published photographs for the tests: they come in Debian's OpenCV documentation package, which slim images strip when
 * it is installed, so it is only fetched and unpacked into a cache that is not committed.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { say } from './fail.mjs';
import { ROOT } from './settings.mjs';

export const SAMPLES = join(ROOT, '.cache', 'samples');
const INSIDE = 'usr/share/doc/opencv-doc/examples/data';
/** Views of one board by one camera: the tenth is not among them. */
const BOARDS = [1, 2, 3, 4, 5, 6, 7, 8, 9, 11, 12, 13, 14].map((n) => `left${String(n).padStart(2, '0')}.jpg`);
const NAMES = ['graf1.png', 'graf3.png', 'H1to3p.xml', 'left_intrinsics.yml', ...BOARDS];

function command(program, args, cwd) {
  return spawnSync(program, args, {
    cwd,
    encoding: 'utf8',
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  });
}

/** Leaves the cache as it is when anything fails: the tests that need it then fail by name. */
export async function fetchSamples() {
  if (NAMES.every((n) => existsSync(join(SAMPLES, n)))) return;
  say('Fetching the published photographs for the tests (Debian package opencv-doc, 96 MB) ...');
  mkdirSync(SAMPLES, { recursive: true });
  const folder = mkdtempSync(join(SAMPLES, '.part-'));
  const root = process.getuid() === 0;
  try {
    let got = command('apt-get', ['download', '-qq', 'opencv-doc'], folder);
    if (got.status !== 0) {
      command(root ? 'apt-get' : 'sudo', root ? ['update', '-qq'] : ['-n', 'apt-get', 'update', '-qq'], folder);
      got = command('apt-get', ['download', '-qq', 'opencv-doc'], folder);
    }
    const file = readdirSync(folder).find((f) => f.endsWith('.deb'));
    if (!file)
      return say(
        `The photographs could not be fetched (${(got.stderr ?? '').trim().split('\n').at(-1) ?? 'no apt-get'}); the tests that need them will fail.`,
      );
    const unpacked = command(
      'sh',
      [
        '-c',
        `dpkg-deb --fsys-tarfile ${file} | tar -x -C ${SAMPLES} --strip-components=${INSIDE.split('/').length + 1} ${NAMES.map((n) => `./${INSIDE}/${n}`).join(' ')}`,
      ],
      folder,
    );
    if (unpacked.status !== 0)
      say(`The photographs could not be unpacked: ${unpacked.stderr.trim().split('\n').at(-1)}`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
