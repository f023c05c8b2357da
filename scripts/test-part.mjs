/**
 * `npm run test:unit`, `test:api`, `test:browser` and `test:faults`: one part of the tests, or one file of it, after building only
 * what that part runs on and only if its sources changed. What follows `--` goes to the runner: a file, or `-t "part of
 * a name"`.
 */
import { FOR_TESTS, ensurePackages } from './setup/debian.mjs';
import { SetupError, main } from './setup/fail.mjs';
import { PROGRAMS, SERVED, UNIT, faults, playwright, projects, testDatabase, vitest } from './setup/runners.mjs';
import { fetchSamples } from './setup/samples.mjs';
import { build, installPackages } from './setup/steps.mjs';

async function withDatabase(work) {
  const { env, end } = await testDatabase();
  try {
    return await work(env);
  } finally {
    await end();
  }
}

const PARTS = {
  unit: { build: ['generated'], run: (args) => vitest([...projects(UNIT), ...args]) },
  api: {
    build: ['generated', 'programs'],
    run: (args) => withDatabase((env) => vitest([...projects([...PROGRAMS, ...SERVED]), ...args], env)),
  },
  browser: {
    build: ['generated', 'programs', 'web'],
    run: (args) => withDatabase((env) => playwright(args, env)),
  },
  faults: { build: ['generated', 'programs'], run: (args) => withDatabase((env) => faults(args, env)) },
};

await main(async () => {
  const [name, ...args] = process.argv.slice(2);
  const part = PARTS[name];
  if (!part) throw new SetupError(`"${name}" is no part of the tests; there are ${Object.keys(PARTS).join(', ')}.`);
  await ensurePackages(FOR_TESTS);
  await installPackages();
  await build(part.build);
  await fetchSamples();
  process.exit(await part.run(args));
});
