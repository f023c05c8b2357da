/**
 * `npm run test:mutation -- [PART ...]`: changes the code of a part of the core in many small ways and tells which changes
 * its tests notice (mutation testing). All parts without a name. The report with every survivor lies in
 * `.cache/mutation/PART.html`; the scores stand in docs/testing.md.
 */
import { existsSync, mkdirSync } from 'node:fs';
import { Stryker } from '@stryker-mutator/core';
import { PARTS } from './mutation/parts.mjs';
import { SetupError, main, say } from './setup/fail.mjs';
import { build, installPackages } from './setup/steps.mjs';

const FOLDER = '.cache/mutation';
/** Ms that a test may take longer with a change than without it, beside half as long again. By trial. */
const PATIENCE = 4000;

/** Share of changes noticed, percent, and how many of each kind. */
function scoreOf(results) {
  const count = (...states) => results.filter((r) => states.includes(r.status)).length;
  const noticed = count('Killed', 'Timeout');
  const unnoticed = count('Survived', 'NoCoverage');
  return { noticed, unnoticed, score: (100 * noticed) / Math.max(1, noticed + unnoticed) };
}

async function tryPart(name) {
  const { mutate, tests, least } = PARTS[name];
  process.env.MUTATION_TESTS = tests.filter((t) => existsSync(t)).join(',');
  const stryker = new Stryker({
    mutate,
    testRunner: 'vitest',
    vitest: { configFile: 'scripts/mutation/vitest.config.ts' },
    plugins: ['@stryker-mutator/vitest-runner'],
    coverageAnalysis: 'perTest',
    // Constants of a module are read once, when it is loaded: each would take a run of all tests.
    ignoreStatic: true,
    reporters: ['html', 'json'],
    htmlReporter: { fileName: `${FOLDER}/${name}.html` },
    jsonReporter: { fileName: `${FOLDER}/${name}.json` },
    disableTypeChecks: 'packages/core/{src,test}/**/*.ts',
    timeoutMS: PATIENCE,
    tempDirName: `${FOLDER}/work`,
    ignorePatterns: ['.cache', '.yarlop', 'dist', 'docs', 'test-results', 'packages/demo/assets', 'packages/web'],
    allowConsoleColors: false,
    logLevel: 'warn',
  });
  return { name, least, ...scoreOf(await stryker.runMutationTest()) };
}

await main(async () => {
  const named = process.argv.slice(2);
  const unknown = named.find((n) => !PARTS[n]);
  if (unknown)
    throw new SetupError(`"${unknown}" is no part that is tried; there are ${Object.keys(PARTS).join(', ')}.`);
  await installPackages();
  await build(['generated']);
  mkdirSync(FOLDER, { recursive: true });
  const rows = [];
  for (const name of named.length > 0 ? named : Object.keys(PARTS)) rows.push(await tryPart(name));
  say('\n| part | changes noticed | not noticed | score | at least |\n| --- | --- | --- | --- | --- |');
  for (const r of rows) say(`| ${r.name} | ${r.noticed} | ${r.unnoticed} | ${r.score.toFixed(1)} % | ${r.least} % |`);
  process.exit(rows.every((r) => r.score >= r.least) ? 0 : 1);
});
