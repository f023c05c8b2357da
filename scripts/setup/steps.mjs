/** Steps that are done once for each state of their inputs: a hash of the files says what is already there. */
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { SetupError, say } from './fail.mjs';
import { ROOT } from './settings.mjs';

const SKIP = new Set(['node_modules', 'generated', 'assets', 'test', 'e2e']);

function files(path) {
  if (!existsSync(path)) return [];
  if (statSync(path).isFile()) return [path];
  return readdirSync(path, { withFileTypes: true })
    .filter((e) => !SKIP.has(e.name))
    .flatMap((e) => files(join(path, e.name)))
    .sort();
}

function hashOf(paths) {
  const hash = createHash('sha256').update(process.version);
  for (const path of paths.flatMap((p) => files(join(ROOT, p))))
    hash.update(path.slice(ROOT.length)).update('\0').update(readFileSync(path)).update('\0');
  return hash.digest('hex');
}

async function once(stamp, inputs, label, work, made = null) {
  const path = join(ROOT, stamp);
  const want = hashOf(inputs);
  const there = made === null || existsSync(join(ROOT, made));
  if (there && existsSync(path) && readFileSync(path, 'utf8') === want) return;
  say(label);
  await work();
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, want);
}

function mendOf(output) {
  if (/ENOSPC/.test(output)) return 'the disk is full; free some space';
  if (/EBADENGINE|Unsupported engine/.test(output))
    return `this Node is ${process.version}; install Node 20.19 or newer`;
  return 'check the network to the npm registry';
}

function npm(args, what) {
  return new Promise((done, failed) => {
    let output = '';
    const child = spawn('npm', args, { cwd: ROOT, stdio: ['ignore', 'pipe', 'pipe'] });
    child.stdout.on('data', (t) => (output = (output + t).slice(-4000)));
    child.stderr.on('data', (t) => (output = (output + t).slice(-4000)));
    child.on('error', (e) =>
      failed(new SetupError(`npm could not be started (${e.message}); install Node.js 20 with npm.`)),
    );
    child.on('close', (code) => {
      if (code === 0) return done();
      const line =
        output.split('\n').find((l) => /npm (error|ERR!) (?!code)/i.test(l) && !/complete log/.test(l)) ??
        output.trim().split('\n').at(-1);
      failed(new SetupError(`${what} failed (${line}); ${mendOf(output)}, then start again.`));
    });
  });
}

export const installPackages = () =>
  once(
    'node_modules/.yarlop-installed',
    ['package-lock.json', 'package.json', '.npmrc'],
    'Installing npm packages (about a minute) ...',
    () => npm(['ci', '--no-progress', '--no-audit', '--no-fund'], 'npm ci'),
  );

/** What a part of the build is made of; a part is made anew when any of it changed. */
const INPUTS = {
  generated: [
    'package-lock.json',
    'packages/contracts/schemas',
    'packages/core/kernels',
    'scripts/build-contracts.mjs',
  ],
  programs: [
    'package-lock.json',
    'scripts/build.mjs',
    ...['cli', 'contracts', 'core', 'demo', 'media', 'pipeline', 'server'].map((p) => `packages/${p}`),
  ],
  web: ['package-lock.json', 'packages/contracts', 'packages/core', 'packages/web'],
};

/** A file that a part leaves: without it the part is made again, whatever its stamp says. */
const MADE = {
  generated: 'packages/core/src/generated/kernels.ts',
  programs: 'dist/server.mjs',
  web: 'dist/web/index.html',
};

/** @param parts of the build that are wanted, in order; all of them when left out */
export async function build(parts = Object.keys(INPUTS)) {
  for (const part of parts)
    await once(
      `.cache/built-${part}`,
      [...INPUTS[part], 'scripts/build-kernels.mjs'],
      `Building (${part}) ...`,
      () => npm(['run', 'build', '--', part], 'The build'),
      MADE[part],
    );
}
