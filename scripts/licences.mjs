/**
 * `npm run licences`: writes LICENCES.md, the packages that Yarlop runs on with their licences and the texts of these.
 * Made from npm's own bill of materials, so that it names what is installed.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { SetupError, main, say } from './setup/fail.mjs';
import { ROOT } from './setup/settings.mjs';

/** Packages that run with Yarlop, by name; its own left out. */
export function shipped() {
  const { stdout, status, stderr } = spawnSync('npm', ['sbom', '--omit', 'dev', '--sbom-format', 'cyclonedx'], {
    cwd: ROOT,
    encoding: 'utf8',
    maxBuffer: 64e6,
  });
  if (status !== 0) throw new SetupError(`npm could not list the packages (${stderr.trim().split('\n').at(-1)}).`);
  const seen = new Map();
  for (const { 'bom-ref': id, name, version, licenses = [] } of JSON.parse(stdout).components) {
    if (id.startsWith('@yarlop/')) continue;
    const licence = licenses.map((l) => l.expression ?? l.license.id ?? l.license.name).join(', ');
    seen.set(`${name} ${version}`, { name, version, licence: licence || 'see its text' });
  }
  return [...seen.values()].sort((a, b) => a.name.localeCompare(b.name, 'en'));
}

function textOf(name) {
  const folder = join(ROOT, 'node_modules', name);
  const file = existsSync(folder) && readdirSync(folder).find((f) => /^(licen[cs]e|copying)/i.test(f));
  return file ? readFileSync(join(folder, file), 'utf8').trim() : null;
}

/** Packages that share a text to the letter are named above it together. */
export function licencesPage() {
  const packages = shipped();
  const texts = new Map();
  for (const p of packages) {
    const text = textOf(p.name);
    if (text) texts.set(text, [...(texts.get(text) ?? []), p.name]);
  }
  const rows = packages.map((p) => `| ${p.name} | ${p.version} | ${p.licence} |`);
  const notices = [...texts].map(([text, names]) => `### ${names.join(', ')}\n\n~~~text\n${text}\n~~~`);
  return [
    '# Licences of what Yarlop runs on',
    'Made by `npm run licences`; do not edit. FFmpeg and MariaDB are programs of their own that Debian installs.',
    ['| package | version | licence |', '| --- | --- | --- |', ...rows].join('\n'),
    '## Texts',
    ...notices,
    '',
  ].join('\n\n');
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  await main(async () => {
    const page = licencesPage();
    writeFileSync(join(ROOT, 'LICENCES.md'), page);
    say(`LICENCES.md names ${shipped().length} packages.`);
  });
