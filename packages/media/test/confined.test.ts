/** What ffmpeg may do: it is the one program here that reads bytes of anybody's making in a language without guards. */
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { ended, start } from '../src/ffmpeg';

/** Limits as the kernel tells them, proc(5): name, soft, hard, units in columns. */
function limitsOf(pid: number): Record<string, string> {
  const lines = readFileSync(`/proc/${pid}/limits`, 'utf8').split('\n').slice(1);
  return Object.fromEntries(lines.filter(Boolean).map((l) => [l.slice(0, 26).trim(), l.slice(26, 47).trim()] as const));
}

async function confined<T>(look: (pid: number) => T): Promise<T> {
  // Noise without end, thrown away.
  const child = start('ffmpeg', ['-re', '-f', 'lavfi', '-i', 'nullsrc', '-f', 'null', '-']);
  try {
    // Until the line of programs has come to ffmpeg itself.
    for (let n = 0; n < 100; n++) {
      const name = readFileSync(`/proc/${child.pid}/comm`, 'utf8').trim();
      if (name === 'ffmpeg') break;
      await new Promise((r) => setTimeout(r, 20));
    }
    return look(child.pid!);
  } finally {
    child.kill('SIGKILL');
    await ended(child);
  }
}

describe('ffmpeg', () => {
  it('has limits of memory and files, leaves no core behind, and gains no rights', async () => {
    const { limits, status } = await confined((pid) => ({
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
