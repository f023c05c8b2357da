/** Debian packages that are missing: found by the programs that they bring, installed without a question. */
import { spawn, spawnSync } from 'node:child_process';
import { accessSync, constants } from 'node:fs';
import { delimiter, join } from 'node:path';
import { SetupError, say } from './fail.mjs';

/** Program to package: the smallest that serves; these MariaDB packages start no service of their own. */
export const FOR_START = {
  ffmpeg: 'ffmpeg',
  ffprobe: 'ffmpeg',
  bwrap: 'bubblewrap',
  mariadbd: 'mariadb-server-core',
  'mariadb-install-db': 'mariadb-server-core',
  my_print_defaults: 'mariadb-client-core',
  'mariadb-dump': 'mariadb-client',
  mariadb: 'mariadb-client-core',
};
export const FOR_TESTS = { ...FOR_START, 'chromium-headless-shell': 'chromium-headless-shell' };

export function findProgram(name) {
  for (const folder of [...(process.env.PATH ?? '').split(delimiter), '/usr/sbin', '/usr/bin', '/sbin', '/bin']) {
    const path = join(folder, name);
    try {
      accessSync(path, constants.X_OK);
      return path;
    } catch {
      // looked for in the next folder
    }
  }
  return null;
}

function run(command, args) {
  return new Promise((done) => {
    let output = '';
    const child = spawn(command, args, {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
    const keep = (text) => (output = (output + text).slice(-6000));
    child.stdout.on('data', keep);
    child.stderr.on('data', keep);
    child.on('error', (e) => done({ code: -1, output: e.message }));
    child.on('close', (code) => done({ code, output }));
  });
}

export async function ensurePackages(programs) {
  const missing = [
    ...new Set(
      Object.entries(programs)
        .filter(([program]) => !findProgram(program))
        .map(([, name]) => name),
    ),
  ];
  if (missing.length === 0) return;
  const names = missing.join(' ');
  if (!findProgram('apt-get'))
    throw new SetupError(
      `These Debian packages are missing: ${names}. This machine has no apt-get; install them by its own means.`,
    );
  const root = process.getuid() === 0;
  if (!root && (!findProgram('sudo') || spawnSync('sudo', ['-n', 'true']).status !== 0))
    throw new SetupError(
      `These Debian packages are missing: ${names}. Install them as root, "apt-get install --no-install-recommends ${names}", or run npm start as root.`,
    );
  const apt = (args) =>
    root ? run('apt-get', args) : run('sudo', ['-n', 'DEBIAN_FRONTEND=noninteractive', 'apt-get', ...args]);
  say(`Installing Debian packages: ${names} ...`);
  const update = await apt(['update', '-qq']);
  const install = await apt([
    'install',
    '-y',
    '-qq',
    '--no-install-recommends',
    '-o',
    'DPkg::Lock::Timeout=120',
    ...missing,
  ]);
  if (install.code === 0) return;
  const lines = `${update.code === 0 ? '' : update.output}\n${install.output}`
    .split('\n')
    .filter((l) => /^(E|Err)/.test(l));
  throw new SetupError(
    `apt-get could not install ${names} (${lines[0]?.trim() ?? `status ${install.code}`}); check the network and /etc/apt, then start again.`,
  );
}
