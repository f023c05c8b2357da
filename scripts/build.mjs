/**
 * Builds Yarlop, or the named parts of it: `node scripts/build.mjs [generated] [programs] [web]`.
 * - generated: types and validators from the JSON Schemas, kernels from AssemblyScript (packages/*\/src/generated)
 * - programs: what runs on Node (dist/*.mjs)
 * - web: the interface (dist/web)
 */
import { readdirSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';
import { build as viteBuild } from 'vite';
import { buildContracts } from './build-contracts.mjs';
import { buildKernels } from './build-kernels.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** What the application runs; the rest of {@link PROGRAMS} are the command line and the benches. */
export const SERVER_PROGRAMS = {
  server: 'packages/server/src/main.ts',
  worker: 'packages/server/src/worker.ts',
  reader: 'packages/server/src/reader.ts',
  'render-thread': 'packages/pipeline/src/render-thread.ts',
  'direction-thread': 'packages/pipeline/src/direction-thread.ts',
  'camera-thread': 'packages/pipeline/src/camera-thread.ts',
};

const PROGRAMS = {
  ...SERVER_PROGRAMS,
  yarlop: 'packages/cli/src/main.ts',
  library: 'packages/server/src/library-command.ts',
  bench: 'packages/cli/src/bench.ts',
  'bench-dice': 'packages/cli/src/bench-dice.ts',
  'bench-proof': 'packages/cli/src/bench-proof.ts',
  'bench-render': 'packages/cli/src/bench-render.ts',
  'demo-render': 'packages/demo/src/main.ts',
  'demo-planes': 'packages/demo/src/planes/main.ts',
  'bench-camera': 'packages/cli/src/bench-camera.ts',
  'bench-dress': 'packages/demo/src/planes/bench-dress.ts',
  'bench-front': 'packages/cli/src/bench-front.ts',
  'bench-propose': 'packages/demo/src/planes/bench-propose.ts',
};

/**
 * Packages that stay outside the programs: those with machine code, and those that start threads from files of their own.
 * All others go in, since each of a thousand small files takes its time at every start of a server or a thread.
 */
const OUTSIDE = ['sharp', 'piscina', 'pino', '@node-rs/argon2'];
const isOutside = (id) => OUTSIDE.some((name) => id === name || id.startsWith(`${name}/`));

/** Options of the bundler. */
export function bundling(programs) {
  return {
    input: Object.fromEntries(Object.entries(programs).map(([name, file]) => [name, join(root, file)])),
    platform: 'node',
    logLevel: 'warn',
    cwd: root,
    external: isOutside,
  };
}

export function writing(dir) {
  return {
    dir,
    format: 'esm',
    entryFileNames: '[name].mjs',
    chunkFileNames: 'chunks/[name]-[hash].mjs',
    sourcemap: true,
  };
}

/** Programs of an earlier build, whose names may have been others. */
function clear(dist) {
  try {
    for (const name of readdirSync(dist))
      if (name === 'chunks' || /\.mjs(\.map)?$/.test(name)) rmSync(join(dist, name), { recursive: true });
  } catch (e) {
    if (e.code !== 'ENOENT') throw e;
  }
}

const PARTS = {
  async generated() {
    await buildContracts(root);
    await buildKernels(root);
  },
  async programs() {
    const dist = join(root, 'dist');
    clear(dist);
    const bundle = await rolldown(bundling(PROGRAMS));
    await bundle.write(writing(dist));
    await bundle.close();
  },
  async web() {
    await viteBuild({ configFile: join(root, 'packages/web/vite.config.ts'), logLevel: 'warn' });
  },
};

export async function build(parts = Object.keys(PARTS)) {
  for (const part of parts) {
    if (!PARTS[part]) throw new Error(`"${part}" is no part of the build; there are ${Object.keys(PARTS).join(', ')}.`);
    await PARTS[part]();
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const named = process.argv.slice(2);
  await build(named.length > 0 ? named : undefined);
}
