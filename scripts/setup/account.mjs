/** Whose rights server and database run with: one's own, or as root those of an account that can do nothing else. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { SetupError, say } from './fail.mjs';
import { ROOT } from './settings.mjs';

const NAME = /^[a-z_][a-z0-9_-]{0,31}$/;

function run(command, args) {
  return spawnSync(command, args, { encoding: 'utf8' });
}

/** Numbers of an account, of a group of its own; null where there is none. */
function find(name) {
  const { status, stdout } = run('getent', ['passwd', name]);
  if (status !== 0) return null;
  const [, , uid, gid] = stdout.split(':');
  return { name, uid: Number(uid), gid: Number(gid) };
}

function make(name) {
  say(`Making the account ${name}, which can do nothing but run Yarlop ...`);
  const { status, stderr } = run('useradd', [
    '--system',
    '--user-group',
    '--no-create-home',
    '--shell',
    '/usr/sbin/nologin',
    name,
  ]);
  const made = find(name);
  if (!made)
    throw new SetupError(
      `The account ${name} could not be made (${stderr.trim() || `status ${status}`}); make it yourself, or leave YARLOP_ACCOUNT out.`,
    );
  return made;
}

/** @throws SetupError when the account cannot read what it is to run or keep */
function assertReads({ name, uid, gid }, path, setting) {
  const as = [`--reuid=${uid}`, `--regid=${gid}`, '--clear-groups'];
  if (run('setpriv', [...as, 'test', '-r', path]).status === 0) return;
  throw new SetupError(
    `The account ${name} may not read ${path}; ${setting} a folder that it may read (below /opt or /srv, for example), or leave YARLOP_ACCOUNT out.`,
  );
}

/**
 * The account that server and database are to run as; null for whoever starts them. What they keep becomes its own.
 * @param data the data folder
 * @throws SetupError with the mend
 */
export function accountFor(data) {
  const name = process.env.YARLOP_ACCOUNT;
  const isRoot = process.getuid() === 0;
  if (!isRoot && name)
    throw new SetupError('YARLOP_ACCOUNT is for starting as root; leave it out, or start with sudo.');
  if (!isRoot) return null;
  if (!name) {
    say(
      'Yarlop runs as root. With YARLOP_ACCOUNT=yarlop it runs with the rights of an account of its own, made if need be.',
    );
    return null;
  }
  if (!NAME.test(name))
    throw new SetupError(`YARLOP_ACCOUNT is "${name}"; it must be the name of an account, like yarlop.`);
  const account = find(name) ?? make(name);
  assertReads(account, join(ROOT, 'package.json'), 'move Yarlop to');
  const { status, stderr } = run('chown', ['-R', `${account.uid}:${account.gid}`, data]);
  if (status !== 0) throw new SetupError(`The data folder ${data} could not be given to ${name} (${stderr.trim()}).`);
  assertReads(account, data, 'set YARLOP_DATA to');
  return account;
}
