/** Inputs that nobody at Yarlop wrote, thrown by dice at every way in: each is answered with a sentence, nothing ends. */
import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { random } from '../../../core/test/builders/scene';
import { many, pick, report } from '../builders/faults';
import { plateBytes, recipe } from '../builders/plate';
import { TestServer } from '../builders/server';

let server: TestServer;
let folder: string;
let screen: number;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'yarlop-hostile-'));
  server = await TestServer.create();
  const { shot } = await server.shot(await plateBytes(4));
  const own = { ...recipe, referenceFrame: 1 };
  screen = (await server.request<{ id: number }>('POST', `/shots/${shot}/screens`, own)).body.id;
}, 90_000);
afterAll(async () => {
  await server.dispose();
  await rm(folder, { recursive: true, force: true });
});

const METHODS = ['GET', 'POST', 'PUT', 'DELETE', 'PATCH', 'HEAD', 'OPTIONS', 'TRACE'] as const;
/** Methods whose requests have no body. */
const BODILESS: readonly string[] = ['GET', 'HEAD', 'TRACE'];
const PATHS = [
  'productions',
  'productions/#',
  'productions/#/shots',
  'shots/#',
  'shots/#/verdicts',
  'shots/#/depth',
  'shots/#/screens',
  'shots/#/loop',
  'shots/#/relink',
  'shots/#/import',
  'shots/#/text',
  'shots/#/deliveries',
  'screens/#',
  'screens/#/track',
  'screens/#/seen/#',
  'screens/#/revisions/#',
  'screens/#/prove',
  'screens/#/proof',
  'screens/#/slip',
  'screens/#/flat',
  'screens/#/cut',
  'screens/#/snap',
  'screens/#/spot-run',
  'screens/#/follow',
  'media/#',
  'media/#/frames/#.png',
  'media/#/proxy/#.jpg',
  'jobs/#/cancel',
  'deliveries/#',
  'deliveries/#/file',
  'bin/#/#',
  'tables',
  'uploads',
  'uploads/#',
];
/** What stands where a number or a hash belongs. */
const KEYS = [
  '0',
  '1',
  '-1',
  '1.5',
  '99999999999999999999',
  'NaN',
  '%00',
  '%2e%2e%2fetc%2fpasswd',
  '%E0%A4%A',
  "1'%20OR%20'1'='1",
  'f'.repeat(64),
  'x'.repeat(5000),
  '%F0%9F%8C%8A',
];
const DEEP = '['.repeat(20_000);
const BODIES = [
  '',
  '{',
  'null',
  '[]',
  '"text"',
  '1e999',
  DEEP,
  '{"__proto__":{"polluted":true}}',
  '{"constructor":{"prototype":{"polluted":true}}}',
  '{"revision":1e308,"recipe":{}}',
  '{"frame":-1,"corners":[[0,0],[0,0],[0,0],[0,0]]}',
  '{"frame":1,"corners":[[1e6,0],[0,1e6],[0,0],[1,1]]}',
  '{"from":0,"to":1e9}',
  '{"from":3,"to":0,"area":{"width":1e9,"height":1e9}}',
  '{"name":"\\u0000","upload":"../../etc/passwd","fileName":"a/../b"}',
  `{"name":"${'n'.repeat(100_000)}"}`,
  '{"screens":[1,1,1,1]}',
  '{"as":"no-such-format"}',
  '{"text":"frame,x\\n1,2,3,4,5,6,7,8,9","format":"csv"}',
];
const TYPES = ['application/json', 'text/plain', 'application/json; charset=utf-7', 'multipart/form-data', ''];
const HEADERS: readonly Record<string, string>[] = [
  {},
  { range: 'bytes=9-1' },
  { 'content-encoding': 'gzip' },
  { 'transfer-encoding': 'chunked' },
  { 'if-none-match': '*' },
  { cookie: 'yarlop_visitor=; =;;;' },
  { accept: 'x/y;q=nan' },
  { 'tus-resumable': '9.9.9', 'upload-length': '-5' },
  { 'tus-resumable': '1.0.0', 'upload-length': '1e3' },
  { 'tus-resumable': '1.0.0', 'upload-length': '99999999999999999999' },
  { 'tus-resumable': '1.0.0', 'upload-offset': '7', 'content-type': 'application/offset+octet-stream' },
  { 'tus-resumable': '1.0.0', 'upload-metadata': '%%%,,= ,' },
];

interface Thrown {
  readonly method: string;
  readonly path: string;
  readonly headers: Record<string, string>;
  readonly body: string;
}
function thrown(seed: number): Thrown {
  const roll = random(seed);
  const key = (): string => (roll() < 0.5 ? String(screen) : pick(KEYS, roll));
  const type = pick(TYPES, roll);
  const method = pick(METHODS, roll);
  const path = `/api/${pick(PATHS, roll).replace(/#/g, key)}`;
  const own = pick(HEADERS, roll);
  const body = pick(BODIES, roll);
  return {
    method,
    path,
    headers: { ...(type ? { 'content-type': type } : {}), ...own },
    body: BODILESS.includes(method) ? '' : body,
  };
}

describe('requests thrown by dice', () => {
  it('are answered with sentences, never with a fault, and the server goes on', async () => {
    const count = many(60, 500);
    let sentences = 0;
    for (let seed = 1; seed <= count; seed++) {
      const what = thrown(seed);
      const label = `${seed}: ${what.method} ${what.path.slice(0, 80)} ${what.body.slice(0, 60)} ${JSON.stringify(what.headers)}`;
      const { status, text } = await server
        .raw(what.method, what.path, what.headers, what.body)
        .catch((e: Error) => ({ status: 0, text: e.message }));
      // A request that is no HTTP is hung up on.
      if (status === 0) expect(text, label).toMatch(/hang up|ECONNRESET|EPIPE|Parse Error/);
      else expect(status, `${label}: ${text.slice(0, 200)}`).toBeLessThan(500);
      expect(text, label).not.toMatch(/\n {4}at /);
      if (status >= 400 && text.startsWith('{')) {
        expect((JSON.parse(text) as { message: string }).message, label).toMatch(/^[A-Z"].*[.)]$/s);
        sentences++;
      }
    }
    const health = await server.request<{ ok: boolean }>('GET', '/health');
    expect(health.body.ok).toBe(true);
    expect(({} as Record<string, unknown>)['polluted']).toBeUndefined();
    report(`${count} hostile requests: answers with sentences / faults (5xx) / crashes`, `${sentences} / 0 / 0`);
  }, 300_000);
});

/** @returns exit status and what it said */
function yarlop(args: readonly string[]): Promise<{ status: number; told: string }> {
  return new Promise((resolve) => {
    execFile(process.execPath, ['dist/yarlop.mjs', ...args], { timeout: 60_000 }, (e, stdout, stderr) => {
      resolve({ status: e ? Number(e.code ?? 1) : 0, told: `${stdout}${stderr}` });
    });
  });
}

describe('files thrown by dice at the command line', () => {
  it('are refused with a sentence', async () => {
    const clip = join(folder, 'clip.mp4');
    const bytes = await plateBytes(4);
    const good = JSON.stringify({ ...recipe, referenceFrame: 1 });
    await writeFile(clip, bytes);
    const count = many(6, 60);
    for (let seed = 1; seed <= count; seed++) {
      const roll = random(9000 + seed);
      const bad = join(folder, `bad-${seed}`);
      // A clip or a recipe of which a part is other bytes, or missing.
      const isClip = roll() < 0.5;
      const from = isClip ? bytes : Buffer.from(good);
      const broken = Buffer.from(from.subarray(0, 1 + Math.floor(roll() * from.length)));
      for (let k = 0; k < 20; k++) broken[Math.floor(roll() * broken.length)] = Math.floor(256 * roll());
      await writeFile(bad, broken);
      const recipePath = join(folder, 'screen.json');
      await writeFile(recipePath, good);
      const [plate, screenFile] = isClip ? [bad, recipePath] : [clip, bad];
      const out = join(folder, 'track.json');
      const { status, told } = await yarlop(['follow', plate, '--screen', screenFile, '--out', out]);
      expect(told, `${seed}`).not.toMatch(/\n {4}at |TypeError|RangeError|undefined/);
      // Some bytes do not matter; then there is a track.
      if (status === 0) expect(JSON.parse(await readFile(out, 'utf8'))).toHaveProperty('screens');
      else expect(told.trim(), `${seed}`).toMatch(/[A-Za-z"].{10,}/s);
    }
    report(`${count} hostile files at the command line: refused with a sentence or followed / crashes`, `${count} / 0`);
  }, 400_000);
});
