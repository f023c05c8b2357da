/** Compiles the hot loops (packages/core/kernels, AssemblyScript) to WASM, kept as text in a module of the core. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import asc from 'assemblyscript/asc';

export async function buildKernels(root) {
  let wasm = null;
  const { error, stderr } = await asc.main(
    [
      'packages/core/kernels/index.ts',
      '-O3',
      '--runtime',
      'stub',
      '--noAssert',
      '--enable',
      'simd',
      '--initialMemory',
      '32',
      '--outFile',
      'kernels.wasm',
      '--baseDir',
      root,
    ],
    {
      writeFile: (name, contents) => {
        if (name.endsWith('.wasm')) wasm = contents;
      },
    },
  );
  if (error || !wasm) throw new Error(`The kernels do not compile: ${error?.message ?? ''}\n${stderr.toString()}`);
  const out = join(root, 'packages/core/src/generated');
  mkdirSync(out, { recursive: true });
  writeFileSync(
    join(out, 'kernels.ts'),
    `/* Made from packages/core/kernels; do not edit. */\nexport const KERNELS = '${Buffer.from(wasm).toString('base64')}';\n`,
  );
}
