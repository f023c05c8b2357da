/** What ffmpeg may do: it is the one program here that reads bytes of anybody's making in a language without guards. */
import { existsSync, readFileSync, readlinkSync } from 'node:fs';
import { mkdtemp, readdir, readlink, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { hasRoom } from '../src/confinement';
import { ended, start } from '../src/ffmpeg';

/** Limits as the kernel tells them, proc(5): name, soft, hard, units in columns. */
function limitsOf(pid: number): Record<string, string> {
  const lines = readFileSync(`/proc/${pid}/limits`, 'utf8').split('\n').slice(1);
  return Object.fromEntries(lines.filter(Boolean).map((l) => [l.slice(0, 26).trim(), l.slice(26, 47).trim()] as const));
}

/** The tool itself, behind the programs that hold it: the last of its line. */
function innermost(pid: number): number {
  const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim();
  return children === '' ? pid : innermost(Number(children.split(' ')[0]));
}

async function whileItRuns<T>(look: (pid: number) => T): Promise<T> {
  // Noise without end, thrown away.
  const child = start('ffmpeg', ['-re', '-f', 'lavfi', '-i', 'nullsrc', '-f', 'null', '-']);
  try {
    // Until the line of programs has come to ffmpeg itself.
    for (let n = 0; n < 100; n++) {
      const name = readFileSync(`/proc/${innermost(child.pid!)}/comm`, 'utf8').trim();
      if (name === 'ffmpeg') break;
      await new Promise((r) => setTimeout(r, 20));
    }
    return look(innermost(child.pid!));
  } finally {
    child.kill('SIGKILL');
    await ended(child);
  }
}
const isAlive = (pid: number): boolean =>
  existsSync(`/proc/${pid}/cmdline`) && readFileSync(`/proc/${pid}/cmdline`, 'utf8') !== '';
const one = ['-f', 'lavfi', '-i', 'color=red:size=32x32', '-frames:v', '1', '-y'];

describe('ffmpeg', () => {
  it('has limits of memory and files, leaves no core behind, and gains no rights', async () => {
    const { limits, status } = await whileItRuns((pid) => ({
      limits: limitsOf(pid),
      status: readFileSync(`/proc/${pid}/status`, 'utf8'),
    }));
    expect(limits).toMatchObject({
      'Max address space': String(16 * 2 ** 30),
      'Max open files': '256',
      'Max core file size': '0',
    });
    expect(status).toMatch(/^NoNewPrivs:\t1$/m);
  });
  it('ends with the program that holds it', async () => {
    const pid = await whileItRuns((own) => own);
    for (let n = 0; n < 50 && isAlive(pid); n++) await new Promise((r) => setTimeout(r, 20));
    expect(isAlive(pid)).toBe(false);
  });
  it.skipIf(!hasRoom())(
    'changes nothing but in the folder that it is to write in, and reaches no network',
    async () => {
      const [own, other] = await Promise.all(
        ['own', 'other'].map((name) => mkdtemp(join(tmpdir(), `yarlop-confined-${name}-`))),
      );
      try {
        const written = await ended(start('ffmpeg', [...one, join(own!, 'a.png')], { writes: own! }));
        expect(written).toEqual({ code: 0, stderr: '' });
        for (const writes of [own!, undefined]) {
          const refused = await ended(start('ffmpeg', [...one, join(other!, 'a.png')], writes ? { writes } : {}));
          expect(refused.stderr).toMatch(/Could not open file|Read-only file system/);
        }
        expect([await readdir(own!), await readdir(other!)]).toEqual([['a.png'], []]);
        // A name space of its own holds no way out: the loopback of this machine is another.
        const [here, there] = await Promise.all([
          readlink('/proc/self/ns/net'),
          whileItRuns((pid) => readlinkSync(`/proc/${pid}/ns/net`)),
        ]);
        expect(there).not.toBe(here);
      } finally {
        for (const folder of [own!, other!]) await rm(folder, { recursive: true });
      }
    },
  );
  it('that is not there is named, through the line of programs before it', async () => {
    const path = process.env['PATH'];
    process.env['PATH'] = '/nowhere';
    try {
      expect((await ended(start('ffmpeg', ['-version']))).stderr).toMatch(/ffmpeg is not installed; run npm start/);
    } finally {
      process.env['PATH'] = path;
    }
  });
});
