/**
 * What ffmpeg may do: it is the one program here that reads bytes of anybody's making in a language without guards.
 * Each of these programs runs the rest of the line.
 */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { resolve } from 'node:path';

/** Bytes of address space that a tool may have: more than any picture that is read in needs. By trial. */
const MOST_MEMORY = 16 * 2 ** 30;
/** Files that it may have open: a clip, or the pictures of a sequence one after the other. By trial. */
const MOST_FILES = 256;
/**
 * Of Debian's util-linux, which is always there: the kernel ends a tool with the one that started it, a tool gains no
 * rights, and it stays within its limits.
 */
const LIMITS: readonly (readonly string[])[] = [
  ['/usr/bin/setpriv', '--pdeathsig', 'KILL', '--no-new-privs', '--'],
  ['/usr/bin/prlimit', `--as=${MOST_MEMORY}`, `--nofile=${MOST_FILES}`, '--core=0', '--'],
];
const limits = LIMITS.filter(([program]) => existsSync(program!)).flat();
/** Of Debian's bubblewrap: a view of the machine in which nothing can be changed, and from which no network is reached. */
const ROOM = [
  ...['/usr/bin/bwrap', '--die-with-parent', '--unshare-net', '--unshare-ipc'],
  ...['--ro-bind', '/', '/', '--dev', '/dev'],
];
let isRoom: boolean | undefined;

/** Whether such a view can be made here: some containers do not allow it. */
export function hasRoom(): boolean {
  const [program, ...line] = ROOM;
  isRoom ??= existsSync(program!) && spawnSync(program!, [...line, '--', '/bin/true']).status === 0;
  return isRoom;
}

/**
 * The line of a program that is to be held.
 * @param writes the one folder that it may change something in; none when left out
 */
export function confined(line: readonly string[], writes?: string): string[] {
  if (!hasRoom()) return [...limits, ...line];
  const own = writes === undefined ? [] : ['--bind', resolve(writes), resolve(writes)];
  return [...limits, ...ROOM, ...own, '--', ...line];
}

/** What the programs before it end with where the program is not there. Source: setpriv(1), prlimit(1); bwrap 0.8. */
const NO_PROGRAM = 127;
const NOT_THERE = /^bwrap: execvp \S+: No such file/;

/** Whether the line ended because its last program is not there. */
export function isMissing(code: number | null, stderr: string): boolean {
  return NOT_THERE.test(stderr) || (code === NO_PROGRAM && /^(setpriv|prlimit)/.test(stderr));
}
