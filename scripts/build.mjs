/** Builds everything: contracts, kernels, the programs that run on Node (dist/*.mjs) and the interface (dist/web). */
import { existsSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';
import { build as viteBuild } from 'vite';
import { buildContracts } from './build-contracts.mjs';
import { buildKernels } from './build-kernels.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));

const PROGRAMS = {
  yarlop: 'packages/cli/src/main.ts',
  server: 'packages/server/src/main.ts',
  worker: 'packages/server/src/worker.ts',
  'render-thread': 'packages/pipeline/src/render-thread.ts',
  'direction-thread': 'packages/pipeline/src/direction-thread.ts',
  bench: 'packages/cli/src/bench.ts',
  'bench-proof': 'packages/cli/src/bench-proof.ts',
  'bench-render': 'packages/cli/src/bench-render.ts',
  'demo-render': 'packages/demo/src/main.ts',
  'demo-planes': 'packages/demo/src/planes/main.ts',
  'bench-dress': 'packages/demo/src/planes/bench-dress.ts',
};

async function buildPrograms() {
  const input = Object.fromEntries(
    Object.entries(PROGRAMS)
      .filter(([, file]) => existsSync(join(root, file)))
      .map(([n, f]) => [n, join(root, f)]),
  );
  const bundle = await rolldown({
    input,
    platform: 'node',
    logLevel: 'warn',
    cwd: root,
    external: (id) => !id.startsWith('.') && !id.startsWith('/') && !id.startsWith('@yarlop/'),
  });
  await bundle.write({
    dir: join(root, 'dist'),
    format: 'esm',
    entryFileNames: '[name].mjs',
    chunkFileNames: 'chunks/[name]-[hash].mjs',
    sourcemap: true,
  });
  await bundle.close();
}

export async function buildAll() {
  await buildContracts(root);
  await buildKernels(root);
  await rm(join(root, 'dist'), { recursive: true, force: true });
  await buildPrograms();
  if (existsSync(join(root, 'packages/web/index.html')))
    await viteBuild({ configFile: join(root, 'packages/web/vite.config.ts'), logLevel: 'warn' });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildAll();
